import { defineNode } from '../../graph/define-node'
import { colour, meshData, normal } from '../../graph/ports'
import { withoutBase } from '../../kernels/normals'
import { throughFrames } from '../../kernels/frames'

/** Source: glTF 2.0, 3.9.3, turned around; what it lies on is taken out by the inverse of C. Barré-Brisebois, S. Hill, 2012. */
export default defineNode({
  type: 'object-to-tangent',
  version: 1,
  family: 'mesh',
  title: 'Object to tangent normal',
  summary: 'Normals in the space of the model as tangent normals of a part’s surface.',
  keywords: ['object space', 'world space', 'normal map', 'convert', 'tangent space'],
  params: {},
  inputs: {
    normal: normal({ help: 'Normals in the model’s space: X, Y (up), Z.', whenUnconnected: meshData('object-normal') }),
    base: normal({
      help: 'Tangent normals that the result will lie on, taken out of it: on a part its baked normals.',
      whenUnconnected: null,
    }),
    tangent: colour({ help: 'Which way texels go across.', whenUnconnected: meshData('tangent') }),
    bitangent: colour({ help: 'Which way they go up.', whenUnconnected: meshData('bitangent') }),
    low: colour({ help: 'Where the low surface faces.', whenUnconnected: meshData('low-normal') }),
  },
  outputs: { result: normal({ help: 'Tangent normals, Y up.' }) },
  tiles: false,
  footprint: 'point',
  evaluate: ({ normal: given, base, ...frames }, _, { result }, { rows }) => {
    if (!result) return
    throughFrames(given, frames, result, rows, 'in')
    if (base) withoutBase(base, result, rows)
  },
  example: { onPart: true },
})
