import { defineNode } from '../../graph/define-node'
import { colour, grey } from '../../graph/ports'
import { splitSpecular } from '../../kernels/specular'

/** Source: glTF extension KHR_materials_pbrSpecularGlossiness (kernels/specular.ts). */
export default defineNode({
  type: 'metal-to-specular',
  version: 1,
  family: 'surface',
  title: 'Metal to specular',
  summary: 'Base colour and metallic as diffuse and specular colours.',
  keywords: ['specular', 'diffuse', 'gloss', 'workflow', 'convert', 'reflectance'],
  params: {},
  inputs: {
    colour: colour({ help: 'The base colour.' }),
    metallic: grey({ help: '0 no metal, 1 metal.', whenUnconnected: 0 }),
  },
  outputs: {
    diffuse: colour({ help: 'What is scattered: black on metal.' }),
    specular: colour({ help: 'What is reflected straight on: 0.04 of plain surfaces, their colour of metals.' }),
  },
  footprint: 'point',
  evaluate: ({ colour: base, metallic }, _, outputs, { rows }) => splitSpecular(base, metallic, outputs, rows),
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
    },
    inputs: { colour: 'tint.result', metallic: 'noise.grey' },
    params: {},
  },
})
