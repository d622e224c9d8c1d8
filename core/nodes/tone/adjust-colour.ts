import type { Rgb } from '../../colour/srgb'
import { rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey, any } from '../../graph/ports'
import { weightOf } from '../../kernels/blend-fields'
import { changeLightness, changeTone } from '../../kernels/oklab-tones'

/** Hue, saturation, brightness and contrast even to the eye. Source: Oklab (kernels/oklab-tones.ts). */
export default defineNode({
  type: 'adjust-colour',
  version: 1,
  family: 'tone',
  title: 'Adjust colour',
  summary: 'Turns hue, scales saturation and contrast, moves brightness.',
  keywords: ['hue', 'saturation', 'brightness', 'contrast', 'lift', 'desaturate', 'tint'],
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
  evaluate: ({ source, mask }, params, { result }, { rows }) => {
    if (!result) return
    const tone = changeTone(params)
    const change: (c: Rgb) => Rgb =
      result.type === 'grey' ? ([v]) => [changeLightness(v, params), 0, 0] : (colour) => tone(colour)
    const planes = result.planes.length
    const colour: Rgb = [0, 0, 0]
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const s = rowStart(source, y)
      const o = rowStart(result, y)
      const m = mask ? rowStart(mask, y) : 0
      for (let x = 0; x < result.width; x++) {
        for (let p = 0; p < planes; p++) colour[p] = source.planes[p]![s + x]!
        const changed = change(colour)
        const w = mask ? weightOf(mask.planes[0]![m + x]!, 1) : 1
        for (let p = 0; p < planes; p++)
          result.planes[p]![o + x] = bounded(Math.fround(colour[p]! + (changed[p]! - colour[p]!) * w))
      }
    }
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
