import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey, any } from '../../graph/ports'
import { changeTones } from '../../kernels/oklab-tones'

/** Hue, saturation, brightness and contrast even to the eye. Source: Oklab (kernels/oklab-tones.ts). */
export default defineNode({
  type: 'adjust-colour',
  version: 2,
  family: 'tone',
  title: 'Adjust colour',
  summary: 'Turns hue, scales saturation and contrast, moves brightness.',
  keywords: ['hsv', 'hsl', 'hue', 'saturation', 'brightness', 'contrast', 'lift', 'desaturate', 'tint'],
  usualFor: ['colour'],
  params: {
    hue: number({
      default: 0,
      min: -8,
      max: 8,
      softRange: [-0.5, 0.5],
      unit: 'turn',
      help: 'Turns the hue; grey has none.',
    }),
    saturation: number({ default: 1, min: 0, max: 16, softRange: [0, 2], help: '0 is grey, 1 leaves it.' }),
    brightness: number({
      default: 0,
      min: -4,
      max: 4,
      softRange: [-0.5, 0.5],
      help: 'Added to the lightness, or to the value of a grey (its lift).',
    }),
    contrast: number({
      default: 1,
      min: 0,
      max: 16,
      softRange: [0, 2],
      help: 'Spreads lightness about its middle; 1 leaves it.',
    }),
  },
  inputs: {
    source: any({ help: 'What is changed.' }),
    mask: grey({ help: 'Where, and how much of, the change shows: 0 to 1.', whenUnconnected: null }),
  },
  outputs: { result: any({ help: 'The changed colours or values.' }) },
  genericTypes: ['grey', 'colour'],
  footprint: 'point',
  upgrade: { 1: (params) => params },
  presets: [
    {
      title: 'Sun-bleached',
      keywords: ['faded', 'pale'],
      params: { saturation: 0.6, brightness: 0.1, contrast: 0.85 },
    },
    { title: 'Wet', keywords: ['damp', 'dark'], params: { saturation: 1.15, brightness: -0.12, contrast: 1.1 } },
    { title: 'Grey', keywords: ['desaturate', 'monochrome'], params: { saturation: 0 } },
  ],
  evaluate: ({ source, mask }, params, { result }, { rows }) => {
    if (result) changeTones(source, mask, result, rows, params)
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [5, 5] } },
      tint: {
        type: 'gradient-remap',
        params: {
          stops: [
            { at: 0.2, colour: '#33423a' },
            { at: 0.8, colour: '#c9a877' },
          ],
        },
        inputs: { source: 'noise.grey' },
      },
    },
    inputs: { source: 'tint.result' },
    params: { hue: 0.12, saturation: 1.3, contrast: 1.2 },
  },
})
