import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { mapValues } from '../../kernels/point'

/** t / ((1/a − 2)(1 − t) + 1): 0 and 1 stay, ½ becomes a. */
const bias = (t: number, a: number): number => t / ((1 / a - 2) * (1 - t) + 1)

/**
 * Bias by C. Schlick, "Fast Alternatives to Perlin's Bias and Gain Functions", Graphics Gems IV, 1994; gain made of it as
 * in K. Perlin, E. Hoffert, "Hypertexture", SIGGRAPH 1989.
 */
export default defineNode({
  type: 'bias-gain',
  version: 1,
  family: 'tone',
  title: 'Bias and gain',
  summary: 'Leans values to dark or light, and to or from the middle.',
  keywords: ['contrast', 'gamma', 'lean', 'midtone'],
  params: {
    bias: number({ default: 0.5, min: 0.001, max: 0.999, softRange: [0.05, 0.95], help: 'What ½ becomes.' }),
    gain: number({
      default: 0.5,
      min: 0.001,
      max: 0.999,
      softRange: [0.05, 0.95],
      help: 'Above ½ draws values to the ends, below ½ to the middle.',
    }),
  },
  inputs: { source: grey({ help: 'What is bent; taken within 0 to 1.' }) },
  outputs: { result: grey({ help: 'The bent values, 0 to 1.' }) },
  footprint: 'point',
  evaluate: ({ source }, params, { result }, { rows }) => {
    if (!result) return
    mapValues(source, result, rows, (v) => {
      const t = bias(v < 0 ? 0 : v > 1 ? 1 : v, params.bias)
      // Below the middle gain is a bias of 1 − gain at twice the scale, above it the mirror of that.
      return t < 0.5 ? bias(2 * t, 1 - params.gain) / 2 : 1 - bias(2 - 2 * t, 1 - params.gain) / 2
    })
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [5, 5] } } },
    inputs: { source: 'noise.grey' },
    params: { bias: 0.4, gain: 0.8 },
  },
})
