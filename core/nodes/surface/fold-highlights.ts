import { defineNode } from '../../graph/define-node'
import { any, grey } from '../../graph/ports'
import { foldHighlights } from '../../kernels/specular'

/** Common practice of older renderers (kernels/specular.ts). */
export default defineNode({
  type: 'fold-highlights',
  version: 1,
  family: 'surface',
  title: 'Highlights in diffuse',
  summary: 'A diffuse colour with its highlights painted in, for renderers that show none of their own.',
  keywords: ['specular', 'diffuse', 'highlight', 'baked light', 'legacy', 'convert'],
  params: {},
  inputs: {
    diffuse: any({ help: 'The diffuse colour.' }),
    specular: any({ help: 'The specular colour; its grey is what is added.' }),
    amount: grey({ help: 'How much is added, per ID for example; 0.35 to 0.8 are common.', whenUnconnected: 0.5 }),
    upward: grey({ help: 'Where it is added: what faces up.', whenUnconnected: 1 }),
  },
  outputs: { result: any({ help: 'The diffuse colour with highlights.' }) },
  genericTypes: ['colour'],
  encoded: () => true,
  footprint: 'point',
  evaluate: ({ diffuse, specular, amount, upward }, _, { result }, { rows }) => {
    if (result) foldHighlights(diffuse, specular, amount, upward, result, rows)
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [5, 5] } },
      tint: {
        type: 'gradient-remap',
        params: {
          stops: [
            { at: 0.2, colour: '#3a2a1c' },
            { at: 0.8, colour: '#785a3a' },
          ],
        },
        inputs: { source: 'noise.grey' },
      },
      shine: { type: 'specular-tint', inputs: { colour: 'tint.result', highlights: 'noise.grey' } },
    },
    inputs: { diffuse: 'tint.result', specular: 'shine.result', upward: 'noise.grey' },
    params: {},
  },
})
