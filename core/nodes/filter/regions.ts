import { floorMod, rowStart } from '../../field/field'
import { LINKS } from '../../field/patches'
import { defineNode } from '../../graph/define-node'
import { number, seed, toggle } from '../../graph/parameters'
import { colour, id, grey, vector } from '../../graph/ports'
import { placesWithin, valuesById } from '../../kernels/ids'
import type { Region } from '../../kernels/regions'
import { labelRegions, markAbove } from '../../kernels/regions'
import { latticeValue } from '../../kernels/noise'
import { streamSeed } from '../../random'

/** Lattice of the values that areas read at their centres. */
const LATTICE = 48

/**
 * Values spread evenly over 0–1, by rank of a smooth random lattice read at each area's centre: a centre that moves a
 * little, as it does from one size to another, changes the value a little. Own derivation.
 */
function valuesOf(areas: readonly Region[], stream: number, width: number): Float32Array {
  const at = (x: number, y: number): number => latticeValue(stream, floorMod(x, LATTICE), floorMod(y, LATTICE))
  const raw = areas.map(({ centre }) => {
    const x = (centre[0] / width) * LATTICE
    const y = (centre[1] / width) * LATTICE
    const [ix, iy] = [Math.floor(x), Math.floor(y)]
    const [tx, ty] = [x - ix, y - iy]
    const top = at(ix, iy) + (at(ix + 1, iy) - at(ix, iy)) * tx
    const low = at(ix, iy + 1) + (at(ix + 1, iy + 1) - at(ix, iy + 1)) * tx
    return top + (low - top) * ty
  })
  const order = raw.map((_, i) => i).sort((a, b) => raw[a]! - raw[b]! || a - b)
  const values = new Float32Array(areas.length)
  order.forEach((area, rank) => (values[area] = (rank + 0.5) / areas.length))
  return values
}

/** A number of each area at its ID, with 0 for what is in none. */
const byId = (values: ArrayLike<number>): Float32Array => {
  const table = new Float32Array(values.length + 1)
  table.set(values, 1)
  return table
}

/** Separate areas of a mask, each with a number and values of its own. Source: kernels/regions.ts. */
export default defineNode({
  type: 'regions',
  version: 1,
  family: 'filter',
  title: 'Regions',
  summary: 'Finds the separate areas of a mask and gives each an ID, a value, a colour and a place of its own.',
  keywords: ['label', 'flood fill', 'islands', 'connected', 'random per shape', 'id'],
  params: {
    level: number({
      default: 0.5,
      min: -100,
      max: 100,
      softRange: [0, 1],
      help: 'The mask is what reaches this value.',
    }),
    corners: toggle({ default: false, help: 'Areas that only touch at a corner are one.' }),
    seed: seed(),
  },
  inputs: { source: grey({ help: 'The mask.' }) },
  outputs: {
    value: grey({ help: 'A random value for each area, spread evenly over 0 to 1; 0 outside.' }),
    colour: colour({ help: 'A random colour for each area; black outside.' }),
    local: vector({ help: 'The place within the area’s box, 0 to 1 right and down.' }),
    size: grey({ help: 'The area as a share of the tile.' }),
    id: id({ help: '1 and up, in reading order; 0 outside.' }),
  },
  hardEdged: ['value', 'colour', 'local', 'size'],
  uses: ['seed'],
  footprint: 'whole',
  readsIslands: 'links',
  sliceable: false,
  scratchPlanes: () => 2,
  evaluate: ({ source }, params, out, { width, height, rows, documentSeed, patches }) => {
    const some = Object.values(out).find((field) => field !== undefined)
    if (!some) return
    const marked = markAbove((y) => rowStart(source, y), source.planes[0]!, width, height, params.level)
    const islands = patches?.get(LINKS)
    for (let i = 0; islands && i < marked.length; i++) if (islands.owners[i]! < 0) marked[i] = 0
    const { ids, areas } = labelRegions(marked, width, height, params.corners, rows.check, islands?.links)
    const valuesFor = (purpose: string): Float32Array =>
      byId(valuesOf(areas, streamSeed(documentSeed, params.seed, `regions ${purpose}`), width))
    if (out.id)
      for (let y = rows.from; y < rows.to; y++) {
        const row = floorMod(y, height)
        out.id.ids!.set(ids.subarray(row * width, (row + 1) * width), rowStart(out.id, y))
      }
    if (out.value) valuesById(ids, valuesFor('value'), out.value, out.value.planes[0]!, rows)
    if (out.size)
      valuesById(ids, byId(areas.map(({ texels }) => texels / (width * height))), out.size, out.size.planes[0]!, rows)
    for (const [p, purpose] of ['red', 'green', 'blue'].entries())
      if (out.colour) valuesById(ids, valuesFor(purpose), out.colour, out.colour.planes[p]!, rows)
    if (out.local) placesWithin(areas, ids, out.local, rows)
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [5, 5], octaves: 1 } } },
    inputs: { source: 'noise.grey' },
    params: { level: 0.55 },
  },
})
