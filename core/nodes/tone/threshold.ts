import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { thresholdValues } from '../../kernels/values'

/** Cubic step over `softness` around `level`; a hard step at softness 0. Source: own derivation. */
export default defineNode({
  type: 'threshold',
  version: 1,
  family: 'tone',
  title: 'Threshold',
  summary: 'Keeps what is above a level.',
  keywords: ['cutoff', 'threshold', 'harden', 'mask from grey', 'step'],
  usualFor: ['grey'],
  params: {
    level: number({ default: 0.5, min: -100, max: 100, softRange: [0, 1], help: 'Where the edge lies.' }),
    softness: number({
      default: 0.05,
      min: 0,
      max: 100,
      softRange: [0, 1],
      help: 'Width of the edge; 0 is a hard step.',
    }),
  },
  inputs: { source: grey({ help: 'What is cut.' }) },
  outputs: { result: grey({ help: '1 above the level, 0 below.' }) },
  footprint: 'point',
  presets: [
    { title: 'Hard cut', keywords: ['binary', 'stencil'], params: { softness: 0 } },
    { title: 'Soft patches', keywords: ['blend', 'gentle'], params: { softness: 0.3 } },
  ],
  evaluate: ({ source }, { level, softness }, { result }, { rows }) => {
    if (result) thresholdValues(source, result, rows, level - softness / 2, level + softness / 2)
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [6, 6], octaves: 2 } } },
    inputs: { source: 'noise.grey' },
    params: { level: 0.52, softness: 0.15 },
  },
})
