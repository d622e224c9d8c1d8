import { floorMod, rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { number, pair } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { coverage as coverageAt } from '../../kernels/point'

/** Even stripes whose counts across and down are whole, so that any slant tiles. Source: own derivation. */
export default defineNode({
  type: 'stripes',
  version: 1,
  family: 'shape',
  title: 'Stripes',
  summary: 'Even stripes at any slant that tiles.',
  keywords: ['lines', 'bars', 'bands', 'grooves', 'corrugated', 'planks'],
  params: {
    frequency: pair({
      default: [8, 0],
      min: -512,
      max: 512,
      softRange: [0, 32],
      whole: true,
      unit: 'cells',
      help: 'How many are crossed going right, and going down; both set give a slant, signs its direction.',
    }),
    coverage: number({ default: 0.5, min: 0, max: 1, help: 'How much of each stripe is bright.' }),
    softness: number({
      default: 0,
      min: 0,
      max: 1,
      softRange: [0, 0.1],
      unit: 'tile',
      help: 'Width of the edges; one texel at the least.',
    }),
    offset: number({ default: 0, min: -8, max: 8, softRange: [0, 1], help: 'Moves them, in stripes.' }),
  },
  inputs: {},
  outputs: {
    grey: grey({ help: '1 on stripes, 0 between.' }),
    phase: grey({ help: 'From 0 to 1 across each stripe and its gap.' }),
  },
  hardEdged: ['phase'],
  uses: ['metres'],
  footprint: 'point',
  notes: ({ frequency }, { metres }) => {
    const across = frequency[0] / metres[0]
    const down = frequency[1] / metres[1]
    const pitch = 1 / Math.sqrt(across * across + down * down)
    return frequency[0] === 0 && frequency[1] === 0
      ? ['With no count either way there is one stripe everywhere.']
      : [`One every ${(pitch * 1000).toFixed(1)} mm.`]
  },
  evaluate: (_, params, { grey: out, phase }, { width, rows, metres }) => {
    const some = out ?? phase
    if (!some) return
    const height = metres[1] / metres[0]
    const [across, down] = [params.frequency[0], params.frequency[1] / height]
    const pitch = across === 0 && down === 0 ? 1 : 1 / Math.sqrt(across * across + down * down)
    const edge = Math.max(params.softness, 1 / width)
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const start = rowStart(some, y)
      const v = (floorMod(y, some.height) + 0.5) / width
      for (let x = 0; x < width; x++) {
        const along = ((x + 0.5) / width) * across + v * down - params.offset
        const t = along - Math.floor(along)
        if (phase) phase.planes[0]![start + x] = t
        // Distance to the nearer edge of the bright part, which lies around ½.
        const inside = (params.coverage / 2 - Math.abs(t - 0.5)) * pitch
        if (out) out.planes[0]![start + x] = brightness(inside, params.coverage, edge)
      }
    }
  },
  example: { params: { frequency: [5, 3], coverage: 0.4 } },
})

/** Brightness at a signed distance to the edge; all or nothing where there is no edge. */
function brightness(inside: number, coverage: number, edge: number): number {
  if (coverage <= 0) return 0
  if (coverage >= 1) return 1
  return coverageAt(inside, edge)
}
