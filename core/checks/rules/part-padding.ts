import { layoutFactsAt, neededSpacing } from '../../mesh/layout-facts'
import type { CheckSubject } from '../subject'
import type { CheckRule } from '../check'

/** Islands must stay apart in the mip levels that are seen: each level halves what lies between them. */
const partPadding: CheckRule = {
  name: 'part-padding',
  title: 'Padding covers the mips',
  reference:
    'Each mip halves the gap; 8 texels at 1024, which last for three levels, are common practice. Own derivation: level = log2(gap).',
  ofParts: true,
  run: (subject) => {
    const gap = gapOf(subject)
    const needed = neededSpacing(subject.width)
    if (gap === null || gap >= needed) return []
    return [
      {
        severity: 'warning',
        message: `islands are ${gap.toFixed(1)} texels apart: they run into each other from mip ${levelOf(gap)} on; ${needed} texels are usual at this size.`,
        value: gap,
        fix: 'Repack with more spacing in “Before you bake” of the model, or deliver larger maps.',
      },
    ]
  },
  measure: (subject) => {
    const gap = gapOf(subject)
    return gap === null ? 'islands are far apart' : `${gap.toFixed(1)} texels apart, down to mip ${levelOf(gap) - 1}`
  },
}

/** The least distance between islands in texels; null where there is none to speak of, or where they overlap. */
function gapOf({ part, width }: CheckSubject): number | null {
  const { spacingTexels, overlappingPairs } = layoutFactsAt(part!.layout.facts, width)
  return overlappingPairs > 0 ? null : spacingTexels
}

/** The first mip level in which less than a texel lies between the islands. */
const levelOf = (gap: number): number => Math.max(0, Math.floor(Math.log2(Math.max(1e-6, gap))) + 1)

export default partPadding
