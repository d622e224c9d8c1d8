import { defineNode } from '../../graph/define-node'
import { colour, grey } from '../../graph/ports'
import { joinSpecular } from '../../kernels/specular'

/** Source: glTF extension KHR_materials_pbrSpecularGlossiness (kernels/specular.ts). */
export default defineNode({
  type: 'specular-to-metal',
  version: 1,
  family: 'surface',
  title: 'Specular to metal',
  summary: 'Diffuse and specular colours as base colour and metallic.',
  keywords: ['specular', 'diffuse', 'gloss', 'workflow', 'convert', 'metallic', 'legacy'],
  params: {},
  inputs: {
    diffuse: colour({ help: 'What is scattered.' }),
    specular: colour({ help: 'What is reflected straight on; 0.04 is a plain surface.', whenUnconnected: 0.04 }),
  },
  outputs: {
    colour: colour({ help: 'The base colour.' }),
    metallic: grey({ help: '0 no metal, 1 metal.' }),
  },
  footprint: 'point',
  evaluate: ({ diffuse, specular }, _, outputs, { rows }) => joinSpecular(diffuse, specular, outputs, rows),
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [5, 5] } },
      tint: {
        type: 'gradient-remap',
        params: {
          stops: [
            { at: 0.2, colour: '#7a4a2c' },
            { at: 0.8, colour: '#d8b08a' },
          ],
        },
        inputs: { source: 'noise.grey' },
      },
      apart: { type: 'metal-to-specular', inputs: { colour: 'tint.result', metallic: 'noise.grey' } },
    },
    inputs: { diffuse: 'apart.diffuse', specular: 'apart.specular' },
    params: {},
  },
})
