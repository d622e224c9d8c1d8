import { defineNode } from '../../graph/define-node'
import { channels, choice, toggle } from '../../graph/parameters'
import { any } from '../../graph/ports'
import { levelsOfValues } from '../../kernels/values'

const range = { min: -100, max: 100, softRange: [0, 1] as const }
const at = (value: number | readonly number[], plane: number): number =>
  typeof value === 'number' ? value : value[plane]!

/** Stretches a range of values to another and bends the middle. Source: common practice. */
export default defineNode({
  type: 'levels',
  version: 1,
  family: 'tone',
  title: 'Levels',
  summary: 'Stretches a range of values to another and bends the middle.',
  keywords: ['contrast', 'black point', 'white point', 'range'],
  usualFor: ['grey'],
  params: {
    low: channels({ ...range, default: 0, help: 'The value that becomes “out low”.' }),
    high: channels({ ...range, default: 1, help: 'The value that becomes “out high”.' }),
    gamma: channels({
      default: 1,
      min: 0.01,
      max: 100,
      softRange: [0.1, 4],
      help: 'Above 1 lifts the middle, below 1 lowers it.',
    }),
    outLow: channels({ ...range, default: 0, title: 'Out low', help: 'What “low” becomes.' }),
    outHigh: channels({ ...range, default: 1, title: 'Out high', help: 'What “high” becomes.' }),
    clamp: toggle({ default: true, help: 'Holds values beyond the range at its ends.' }),
    encoding: choice({
      default: 'srgb',
      options: ['srgb', 'linear'],
      help: 'For colours: on values as the eye sees them, or on light.',
    }),
  },
  inputs: { source: any({ help: 'What is stretched.' }) },
  outputs: { result: any({ help: 'The stretched values.' }) },
  genericTypes: ['grey', 'colour'],
  encoded: (params) => params.encoding === 'srgb',
  footprint: 'point',
  presets: [
    { title: 'Clamp', keywords: ['limit', 'saturate'], params: { low: 0, high: 1, clamp: true } },
    { title: 'Gamma', keywords: ['power', 'brighten', 'darken'], params: { gamma: 2.2, clamp: false } },
  ],
  evaluate: ({ source }, params, { result }, { rows }) => {
    if (!result) return
    const one = result.planes.map((_, plane) => ({
      low: at(params.low, plane),
      high: at(params.high, plane),
      gamma: at(params.gamma, plane),
      outLow: at(params.outLow, plane),
      outHigh: at(params.outHigh, plane),
      clamp: params.clamp,
    }))
    levelsOfValues(source, result, rows, one)
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [5, 5] } } },
    inputs: { source: 'noise.grey' },
    params: { low: 0.35, high: 0.65, gamma: 0.8 },
  },
})
