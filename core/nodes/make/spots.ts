import { floorMod, rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { choice, number, pair, seed } from '../../graph/parameters'
import { id, grey } from '../../graph/ports'
import { smoothstep } from '../../kernels/point'
import { hashInto, streamSeed, unitFloat } from '../../random'

/** Most cells a spot may reach beyond its own. */
const RING = 3

interface Spot {
  x: number
  y: number
  radius: number
  value: number
  id: number
}

/** Soft discs scattered at random, one at most to each cell of a lattice. Source: own derivation. */
export default defineNode({
  type: 'spots',
  version: 1,
  family: 'make',
  title: 'Spots',
  summary: 'Soft discs scattered at random.',
  keywords: ['dots', 'splats', 'speckle', 'pits', 'drops', 'bubbles', 'lichen', 'gravel'],
  params: {
    cells: pair({
      default: [10, 10],
      min: 1,
      max: 512,
      softRange: [1, 64],
      whole: true,
      unit: 'cells',
      help: 'Places across and down; each holds one spot at most.',
    }),
    density: number({ default: 0.7, min: 0, max: 1, help: 'The share of places that hold one.' }),
    size: pair({
      default: [0.2, 0.9],
      min: 0.01,
      max: 4,
      softRange: [0.05, 2],
      title: 'Size range',
      help: 'Smallest and largest diameter, in cells.',
    }),
    softness: number({ default: 0.5, min: 0, max: 1, help: 'How much of the radius is edge; one texel at the least.' }),
    overlap: choice({ default: 'maximum', options: ['maximum', 'sum'], help: 'Where spots lie over each other.' }),
    vary: number({ default: 0, min: 0, max: 1, help: 'How much fainter some are.' }),
    seed: seed(),
  },
  inputs: {},
  outputs: {
    grey: grey({ help: '1 within spots, 0 outside.' }),
    value: grey({ help: 'A random value for each spot; 0 outside.' }),
    id: id({ help: '1 and up for each spot; 0 outside.' }),
  },
  hardEdged: ['value'],
  uses: ['seed', 'metres'],
  footprint: 'point',
  evaluate: (_, params, out, { width, rows, documentSeed, metres }) => {
    const some = out.grey ?? out.value ?? out.id
    if (!some) return
    const stream = streamSeed(documentSeed, params.seed, 'spots')
    const [columns, lines] = params.cells
    // Cells need not be square: distances are measured in cell widths.
    const squash = (metres[1] / metres[0] / lines) * columns
    const small = Math.min(...params.size)
    const large = Math.max(...params.size)
    const texel = columns / width
    const reach = Math.min(RING, Math.ceil(large / 2))
    const vertical = Math.min(RING, Math.ceil(large / 2 / squash))
    const spotIn = (cx: number, cy: number): Spot | null => {
      const id = floorMod(cy, lines) * columns + floorMod(cx, columns)
      const own = hashInto(stream, id)
      const random = (what: number): number => unitFloat(hashInto(own, what))
      if (random(0) >= params.density) return null
      const radius = Math.min(RING, small + (large - small) * random(3)) / 2
      return { x: cx + random(1), y: (cy + random(2)) * squash, radius, value: random(4), id: id + 1 }
    }
    // Rows of cells, made once while they are near.
    const made = new Map<number, (Spot | null)[]>()
    const cellsOf = (cy: number): (Spot | null)[] => {
      let list = made.get(cy)
      if (!list) {
        if (made.size > 2 * RING + 8) made.clear()
        list = Array.from({ length: columns + 2 * reach }, (_, i) => spotIn(i - reach, cy))
        made.set(cy, list)
      }
      return list
    }
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const start = rowStart(some, y)
      const v = ((floorMod(y, some.height) + 0.5) / some.height) * lines
      let column = NaN
      let around: Spot[] = []
      for (let x = 0; x < width; x++) {
        const u = ((x + 0.5) / width) * columns
        if (Math.floor(u) !== column) {
          column = Math.floor(u)
          around = []
          for (let dy = -vertical; dy <= vertical; dy++)
            for (let dx = -reach; dx <= reach; dx++) {
              const spot = cellsOf(Math.floor(v) + dy)[column + dx + reach]
              if (spot) around.push(spot)
            }
        }
        let sum = 0
        let max = 0
        let top: Spot | null = null
        for (const spot of around) {
          const dx = u - spot.x
          const dy = v * squash - spot.y
          const away = Math.sqrt(dx * dx + dy * dy)
          if (away > spot.radius + texel) continue
          const edge = Math.max(spot.radius * params.softness, texel)
          // Where the profile would not fit, a spot as wide as its edge covers the same amount, fainter.
          const middle = spot.radius * (1 - params.softness / 2)
          const fits = Math.max(middle, edge / 2)
          const faint = (middle / fits) * (middle / fits)
          const opacity = faint * (1 - smoothstep(fits - edge / 2, fits + edge / 2, away))
          if (opacity === 0) continue
          const level = opacity * (1 - params.vary * spot.value)
          sum += level
          if (level > max) {
            max = level
            top = spot
          }
        }
        if (out.grey) out.grey.planes[0]![start + x] = params.overlap === 'sum' ? sum : max
        if (out.value) out.value.planes[0]![start + x] = top ? top.value : 0
        if (out.id) out.id.ids![start + x] = top ? top.id : 0
      }
    }
  },
  example: { params: { cells: [7, 7], size: [0.3, 1.4], vary: 0.6 } },
})
