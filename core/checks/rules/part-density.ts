import type { CheckSubject } from '../subject'
import type { CheckRule } from '../check'

/** How many times finer or coarser than the others a part may be. */
const LIMIT = 2

/** Parts beside each other should be equally sharp, where their maps are of one size. */
const partDensity: CheckRule = {
  name: 'part-density',
  title: 'As fine as the other parts',
  reference: 'Common practice: parts of one model within a factor of 2 of each other, at maps of one size.',
  ofParts: true,
  run: (subject) => {
    const ratio = ratioOf(subject)
    if (ratio === null || (ratio <= LIMIT && ratio >= 1 / LIMIT)) return []
    const own = subject.width / subject.part!.layout.metresPerUnit
    return [
      {
        severity: 'warning',
        message: `has ${own.toFixed(0)} texels a metre, ${(ratio > 1 ? ratio : 1 / ratio).toFixed(1)} times as ${ratio > 1 ? 'many' : 'few'} as the middle of the other parts at this size.`,
        value: ratio,
        fix: `Deliver this part at ${ratio > 1 ? 'half the size' : 'twice the size'}, or lay out its UVs ${ratio > 1 ? 'smaller' : 'larger'}.`,
      },
    ]
  },
  measure: (subject) => {
    const ratio = ratioOf(subject)
    const own = `${(subject.width / subject.part!.layout.metresPerUnit).toFixed(0)} texels a metre`
    return ratio === null ? own : `${own}, ${ratio.toFixed(2)} × the middle of the others`
  },
}

/** Texels a metre beside the median of the other parts; null where there is no other. */
function ratioOf({ part }: CheckSubject): number | null {
  const { metresPerUnit, others } = part!.layout
  if (others.length === 0) return null
  const sorted = others.map((one) => one.metresPerUnit).sort((a, b) => a - b)
  return sorted[Math.floor(sorted.length / 2)]! / metresPerUnit
}

export default partDensity
