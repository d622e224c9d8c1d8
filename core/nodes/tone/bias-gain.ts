import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { biasAndGain } from '../../kernels/values'

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
    if (result) biasAndGain(source, result, rows, params.bias, params.gain)
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [5, 5] } } },
    inputs: { source: 'noise.grey' },
    params: { bias: 0.4, gain: 0.8 },
  },
})
