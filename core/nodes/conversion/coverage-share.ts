import { rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { weightOf } from '../../kernels/blend-fields'
import { simd } from '../../kernels/simd'

/**
 * mask · coverage · amount / union: the share of a new layer in what an isolated group covers after it.
 * Put in by closed groups. Source: W3C Compositing and Blending Level 1, section 5.1, divided by the union's alpha.
 */
export default defineNode({
  type: 'coverage-share',
  version: 1,
  family: 'conversion',
  title: 'Coverage share',
  summary: 'How much of a closed group’s surface a layer takes.',
  keywords: [],
  params: { amount: number({ default: 1, min: 0, max: 1, help: 'The layer’s amount.' }) },
  inputs: {
    mask: grey({ help: 'The layer’s mask.', whenUnconnected: 1 }),
    coverage: grey({ help: 'What the layer itself covers.', whenUnconnected: 1 }),
    union: grey({ help: 'What is covered once the layer lies there.' }),
  },
  outputs: { result: grey({ help: 'Its share, 0 to 1.' }) },
  footprint: 'point',
  evaluate: ({ mask, coverage, union }, { amount }, { result }, { rows }) => {
    if (!result) return
    const twin = simd()
    if (twin) {
      const inputs = [mask, coverage, union].map((field) => [field, field.planes[0]!] as const)
      return twin.runs(rows, result.width, inputs, [[result, result.planes[0]!]], (count, [m, c, u], [to]) =>
        twin.assembly.coverageShare(m!, c!, u!, to!, count, amount),
      )
    }
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const m0 = rowStart(mask, y)
      const c0 = rowStart(coverage, y)
      const u0 = rowStart(union, y)
      const o0 = rowStart(result, y)
      for (let x = 0; x < result.width; x++) {
        const weight = weightOf(mask.planes[0]![m0 + x]!, weightOf(coverage.planes[0]![c0 + x]!, amount))
        const covered = union.planes[0]![u0 + x]!
        result.planes[0]![o0 + x] = covered > 0 ? Math.min(1, weight / covered) + 0 : 0
      }
    }
  },
  example: {
    nodes: {
      a: { type: 'ramp' },
      b: { type: 'noise', params: { cells: [4, 4] } },
      union: { type: 'blend', params: { mode: 'screen' }, inputs: { base: 'a.grey', source: 'b.grey' } },
    },
    inputs: { mask: 'b.grey', union: 'union.result' },
  },
})
