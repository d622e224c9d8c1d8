import { rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { number, seed } from '../../graph/parameters'
import { colour, grey, id, meshData } from '../../graph/ports'
import type { SolidCell } from '../../kernels/solid-noise'
import { solidCell } from '../../kernels/solid-noise'
import { streamSeed, unitFloat } from '../../random'

/** Cells of the places of the model, so that they know no seam. Source: kernels/solid-noise.ts. */
export default defineNode({
  type: 'solid-cells',
  version: 1,
  family: 'mesh',
  title: 'Solid cells',
  summary: 'Cells in space, each with a value of its own: they run over every seam of the part.',
  keywords: ['3d cells', 'voronoi', 'worley', 'crackle', 'pebbles', 'seamless'],
  params: {
    size: number({
      default: 0.1,
      min: 0.0001,
      max: 1000,
      softRange: [0.01, 1],
      unit: 'metre',
      help: 'Size of a cell.',
    }),
    jitter: number({ default: 1, min: 0, max: 1, help: 'How far cells stray from a grid.' }),
    seed: seed(),
  },
  inputs: { position: colour({ help: 'Places in metres.', whenUnconnected: meshData('position') }) },
  outputs: {
    value: grey({ help: 'A random value for each cell.' }),
    distance: grey({ help: 'Distance to the middle of the cell, in cells.' }),
    border: grey({ help: 'How near the border of a cell is: 0 on it.' }),
    id: id({ title: 'ID', help: 'A number for each cell.' }),
  },
  uses: ['seed'],
  tiles: false,
  hardEdged: ['value', 'id'],
  footprint: 'point',
  evaluate: ({ position }, { size, jitter, seed: own }, outputs, { width, rows, documentSeed }) => {
    const stream = streamSeed(documentSeed, own, 'solid-cells')
    const [px, py, pz] = position.planes as [Float32Array, Float32Array, Float32Array]
    const cell: SolidCell = { nearest: 0, second: 0, hash: 0 }
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const at = rowStart(position, y)
      for (let x = 0; x < width; x++) {
        solidCell(stream, jitter, px[at + x]! / size, py[at + x]! / size, pz[at + x]! / size, cell)
        const { value, distance, border, id: ids } = outputs
        if (value) value.planes[0]![rowStart(value, y) + x] = unitFloat(cell.hash)
        if (distance) distance.planes[0]![rowStart(distance, y) + x] = bounded(cell.nearest)
        if (border) border.planes[0]![rowStart(border, y) + x] = bounded(cell.second - cell.nearest)
        if (ids) ids.ids![rowStart(ids, y) + x] = cell.hash >>> 8
      }
    }
  },
  example: { onPart: true },
})
