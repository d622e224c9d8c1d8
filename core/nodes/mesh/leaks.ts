import { rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { number, seed } from '../../graph/parameters'
import { colour, grey, meshData } from '../../graph/ports'
import { blurFootprint } from '../../kernels/blur'
import { blurredField, blurredRow } from '../../kernels/blurred-field'
import { fractalSolidNoise } from '../../kernels/solid-noise'
import { streamSeed } from '../../random'

/** Runs below ledges: baked leaks (1 at the ledge, 0 at their length) cut to lengths that differ from place to place. */
export default defineNode({
  type: 'leaks',
  version: 1,
  family: 'mesh',
  title: 'Leaks',
  summary: 'Streaks that run down from ledges and hollows, of many lengths.',
  keywords: ['drips', 'rust run', 'streaks', 'stain', 'water', 'gravity', 'runs'],
  params: {
    length: number({
      default: 0.8,
      min: 0,
      max: 1,
      help: 'Length of the longest runs, as a share of those that were baked.',
    }),
    variation: number({ default: 0.7, min: 0, max: 1, help: 'How much shorter the shortest are.' }),
    scale: number({
      default: 0.03,
      min: 0.0001,
      max: 100,
      softRange: [0.002, 0.3],
      unit: 'metre',
      help: 'Width of a streak.',
    }),
    spread: number({
      default: 0,
      min: 0,
      max: 10,
      softRange: [0, 0.05],
      unit: 'metre',
      help: 'How far they blur to their sides.',
    }),
    fade: number({
      default: 1,
      min: 0.05,
      max: 8,
      softRange: [0.2, 3],
      help: 'Above 1 they thin out early, below 1 late.',
    }),
    seed: seed(),
  },
  inputs: {
    leaks: grey({ help: 'Runs as they were baked.', whenUnconnected: meshData('leaks') }),
    position: colour({ help: 'Places in metres.', whenUnconnected: meshData('position') }),
  },
  outputs: { leaks: grey({ help: 'Streaks, 1 at the ledge.' }) },
  uses: ['seed', 'metres'],
  tiles: false,
  footprint: ({ spread }, { width, height, metres }) =>
    blurFootprint({ kind: 'gaussian', sigma: (spread * width) / metres[0] }, height),
  scratchPlanes: () => 1,
  evaluate: ({ leaks: baked, position }, params, { leaks: out }, { width, rows, metres, documentSeed }) => {
    if (!out) return
    const stream = streamSeed(documentSeed, params.seed, 'leaks')
    const soft = blurredField(baked, (params.spread * width) / metres[0], null, rows)
    const [px, , pz] = position.planes as [Float32Array, Float32Array, Float32Array]
    const shape = { octaves: 2, lacunarity: 2, gain: 0.6, style: 'plain' } as const
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const [from, p, to] = [blurredRow(soft, y), rowStart(position, y), rowStart(out, y)]
      for (let x = 0; x < width; x++) {
        const value = Math.min(1, soft.planes[0]![from + x]!)
        if (value <= 0) {
          out.planes[0]![to + x] = 0
          continue
        }
        const noise = fractalSolidNoise(shape, stream, px[p + x]! / params.scale, 0.5, pz[p + x]! / params.scale)
        const reach = params.length * (1 - params.variation * Math.min(1, Math.max(0, 2 * noise - 0.5)))
        const t = reach <= 0 ? 0 : Math.max(0, 1 - (1 - value) / reach)
        out.planes[0]![to + x] = bounded(faded(t, params.fade))
      }
    }
  },
  example: { onPart: true, params: { scale: 0.05 } },
})

/** t bent so that ½ falls or rises: t^fade by a rational curve through the same ends (Schlick's bias, Graphics Gems IV, 1994). */
const faded = (t: number, fade: number): number => t / ((fade - 1) * (1 - t) + 1)
