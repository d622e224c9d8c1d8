import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { any, grey } from '../../graph/ports'
import { tintSpecular } from '../../kernels/specular'

/** Common practice of older renderers (kernels/specular.ts). */
export default defineNode({
  type: 'specular-tint',
  version: 2,
  family: 'surface',
  title: 'Specular tint',
  summary:
    'A specular colour as older renderers want it: the complement on non-metals, a brighter own colour on metals.',
  keywords: ['specular', 'complement', 'highlight', 'legacy', 'convert'],
  params: {
    darken: number({ default: 0.35, min: 0, max: 4, softRange: [0, 1], help: 'Times the complement of non-metals.' }),
    brighten: number({
      default: 1.5,
      min: 0,
      max: 16,
      softRange: [1, 4],
      help: 'Times the colour of metals; less where it would burn out, so that the hue stays.',
    }),
    even: number({
      default: 1,
      min: 0,
      max: 1,
      help: 'How much non-metals lose where they face up, so that light painted from above does not show twice.',
    }),
  },
  inputs: {
    colour: any({ help: 'The base colour.' }),
    metallic: grey({ help: '0 no metal, 1 metal.', whenUnconnected: 0 }),
    level: grey({ title: 'Darken by', help: 'Multiplies “darken”, per ID for example.', whenUnconnected: 1 }),
    upward: grey({ help: 'What faces up: 1 straight up.', whenUnconnected: 0 }),
    highlights: grey({ help: 'Where highlights are painted: 1 is white.', whenUnconnected: 0 }),
  },
  outputs: { result: any({ help: 'The specular colour.' }) },
  genericTypes: ['colour'],
  encoded: () => true,
  footprint: 'point',
  evaluate: (inputs, params, { result }, { rows }) => {
    if (result) tintSpecular(inputs, result, rows, params)
  },
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
