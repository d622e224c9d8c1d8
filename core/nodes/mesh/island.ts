import { floorMod, rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { seed, toggle } from '../../graph/parameters'
import { grey, id, meshData } from '../../graph/ports'
import { hashInto, streamSeed, unitFloat } from '../../random'

/** Middle, direction of the length, and extents along and across, of an island: ten numbers each, by its ID. */
type Extents = Readonly<Record<number, readonly number[]>>

/**
 * Islands of the UV layout. Their length runs along the main axis of their texels (principal components: K. Pearson, "On Lines and
 * Planes of Closest Fit", 1901).
 */
export default defineNode({
  type: 'island',
  version: 1,
  family: 'mesh',
  title: 'Island',
  summary: 'A value for each island of the UV layout, and places along its length.',
  keywords: ['shell', 'chart', 'random per island', 'grain', 'plank', 'board', 'along'],
  params: {
    turnRoot: toggle({
      default: false,
      title: 'Root at the other end',
      help: 'Begins at the other end of each island.',
    }),
    seed: seed(),
  },
  inputs: { ids: id({ title: 'IDs', help: 'A number for each island.', whenUnconnected: meshData('island-id') }) },
  outputs: {
    id: id({ title: 'ID', help: 'The number of the island.' }),
    random: grey({ help: 'A random value for each island.' }),
    along: grey({ help: 'From 0 to 1 along its length.' }),
    across: grey({ help: 'From 0 to 1 across it.' }),
  },
  uses: ['seed'],
  tiles: false,
  hardEdged: ['id', 'random', 'along', 'across'],
  footprint: 'whole',
  prepare: ({ ids }, _, { width, height, rows }): Extents => {
    const sums = new Map<number, number[]>()
    const each = (work: (island: number, x: number, y: number) => void): void => {
      for (let y = 0; y < height; y++) {
        rows.check()
        const at = rowStart(ids, y)
        for (let x = 0; x < width; x++)
          if (ids.ids![at + x]! !== 0) work(ids.ids![at + x]!, (x + 0.5) / width, (y + 0.5) / width)
      }
    }
    each((island, x, y) => {
      let sum = sums.get(island)
      if (!sum) sums.set(island, (sum = [0, 0, 0, 0, 0, 0]))
      sum[0]! += 1
      sum[1]! += x
      sum[2]! += y
      sum[3]! += x * x
      sum[4]! += x * y
      sum[5]! += y * y
    })
    const extents: Record<number, number[]> = {}
    for (const [island, [n, sx, sy, sxx, sxy, syy]] of sums as Map<
      number,
      [number, number, number, number, number, number]
    >) {
      const [cx, cy] = [sx / n, sy / n]
      const [a, b, c] = [sxx / n - cx * cx, sxy / n - cx * cy, syy / n - cy * cy]
      // The eigenvector of the larger eigenvalue.
      const half = (a - c) / 2
      const larger = (a + c) / 2 + Math.sqrt(half * half + b * b)
      let [dx, dy] = Math.abs(b) > 1e-12 ? [larger - c, b] : a >= c ? [1, 0] : [0, 1]
      const length = Math.sqrt(dx * dx + dy * dy)
      dx /= length
      dy /= length
      // Downward in the picture, or to the right where it lies level.
      if (dy < -1e-9 || (Math.abs(dy) <= 1e-9 && dx < 0)) [dx, dy] = [-dx, -dy]
      extents[island] = [cx, cy, dx, dy, Infinity, -Infinity, Infinity, -Infinity]
    }
    each((island, x, y) => {
      const one = extents[island]!
      const [px, py] = [x - one[0]!, y - one[1]!]
      const along = px * one[2]! + py * one[3]!
      const across = py * one[2]! - px * one[3]!
      one[4] = Math.min(one[4]!, along)
      one[5] = Math.max(one[5]!, along)
      one[6] = Math.min(one[6]!, across)
      one[7] = Math.max(one[7]!, across)
    })
    return extents
  },
  evaluate: ({ ids }, { turnRoot, seed: own }, outputs, { width, height, rows, prepared, documentSeed }) => {
    const stream = streamSeed(documentSeed, own, 'island')
    const share = (value: number, from: number, to: number): number =>
      to > from ? Math.min(1, Math.max(0, (value - from) / (to - from))) : 0
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const at = rowStart(ids, y)
      for (let x = 0; x < width; x++) {
        const island = ids.ids![at + x]!
        const one = prepared[island]
        const { id: out, random, along, across } = outputs
        if (out) out.ids![rowStart(out, y) + x] = island
        if (random) random.planes[0]![rowStart(random, y) + x] = island === 0 ? 0 : unitFloat(hashInto(stream, island))
        if (!along && !across) continue
        const [px, py] = one ? [(x + 0.5) / width - one[0]!, (floorMod(y, height) + 0.5) / width - one[1]!] : [0, 0]
        if (along) {
          const t = one ? share(px * one[2]! + py * one[3]!, one[4]!, one[5]!) : 0
          along.planes[0]![rowStart(along, y) + x] = bounded(turnRoot && one ? 1 - t : t)
        }
        if (across)
          across.planes[0]![rowStart(across, y) + x] = one
            ? bounded(share(py * one[2]! - px * one[3]!, one[6]!, one[7]!))
            : 0
      }
    }
  },
  example: { onPart: true },
})
