import { defineNode } from '../../graph/define-node'
import { colour, meshData, normal } from '../../graph/ports'
import { throughFrames } from '../../kernels/frames'

/** Source: glTF 2.0, 3.9.3 (how a renderer reads tangent normals); frames as core/mesh/tangents.ts makes them. */
export default defineNode({
  type: 'tangent-to-object',
  version: 1,
  family: 'mesh',
  title: 'Tangent to object normal',
  summary: 'Normals of a part’s surface as directions in the space of the model.',
  keywords: ['object space', 'world space', 'normal map', 'convert', 'tangent space'],
  params: {},
  inputs: {
    normal: normal({ help: 'Tangent normals, Y up.' }),
    tangent: colour({ help: 'Which way texels go across.', whenUnconnected: meshData('tangent') }),
    bitangent: colour({ help: 'Which way they go up.', whenUnconnected: meshData('bitangent') }),
    low: colour({ help: 'Where the low surface faces.', whenUnconnected: meshData('low-normal') }),
  },
  outputs: { result: normal({ help: 'Normals in the model’s space: X, Y (up), Z.' }) },
  tiles: false,
  footprint: 'point',
  evaluate: ({ normal: given, ...frames }, _, { result }, { rows }) => {
    if (result) throughFrames(given, frames, result, rows, 'out')
  },
  example: {
    onPart: true,
    nodes: {
      noise: { type: 'noise', params: { cells: [7, 7], octaves: 1 } },
      slopes: { type: 'height-to-normal', params: { strength: 2 }, inputs: { height: 'noise.grey' } },
    },
    inputs: { normal: 'slopes.normal' },
  },
})
