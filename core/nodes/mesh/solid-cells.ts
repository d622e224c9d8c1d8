import { defineNode } from '../../graph/define-node'
import { number, seed } from '../../graph/parameters'
import { colour, grey, id, meshData } from '../../graph/ports'
import { solidCellsField } from '../../kernels/solid-cells'
import { streamSeed } from '../../random'

/** Cells of the places of the model, so that they know no seam. Source: kernels/solid-cells.ts. */
export default defineNode({
  type: 'solid-cells',
  version: 2,
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
  upgrade: { 1: (params) => params },
  evaluate: ({ position }, { size, jitter, seed: own }, outputs, { rows, documentSeed }) =>
    solidCellsField({ seed: streamSeed(documentSeed, own, 'solid-cells'), jitter, size }, position, outputs, rows),
  example: { onPart: true },
})
