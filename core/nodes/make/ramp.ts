import { defineNode } from '../../graph/define-node'
import { choice, integer, number, pair, toggle } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { RAMP_SHAPES, rampRows } from '../../kernels/ramps'

/** A run from 0 to 1 by place. Source: own derivation. */
export default defineNode({
  type: 'ramp',
  version: 1,
  family: 'make',
  title: 'Ramp',
  summary: 'A run from dark to light: along a line, outward, or around.',
  keywords: ['gradient', 'linear', 'radial', 'angular', 'diamond', 'box', 'fade'],
  params: {
    shape: choice({
      default: 'linear',
      options: RAMP_SHAPES,
      help: 'Along a line, outward in circles, around, or outward in diamonds or boxes.',
    }),
    centre: pair({
      default: [0.5, 0.5],
      min: -4,
      max: 4,
      softRange: [0, 1],
      unit: 'tile',
      help: 'Where the middle lies.',
    }),
    angle: number({ default: 0, min: -8, max: 8, softRange: [0, 1], unit: 'turn', help: 'Counter-clockwise turn.' }),
    radius: number({
      default: 0.5,
      min: 0.001,
      max: 8,
      softRange: [0.01, 1],
      unit: 'tile',
      help: 'Where it reaches 1, from the middle.',
    }),
    exponent: number({ default: 1, min: 0.05, max: 20, softRange: [0.1, 4], help: 'Bends the run; 1 is straight.' }),
    repeat: integer({ default: 1, min: 1, max: 256, softRange: [1, 16], help: 'How many runs follow each other.' }),
    mirror: toggle({ default: false, help: 'Every other run goes back.' }),
  },
  inputs: {},
  outputs: { grey: grey({ help: '0 to 1.' }) },
  tiles: false,
  footprint: 'point',
  presets: [
    { title: 'Spot of light', keywords: ['radial', 'vignette', 'middle'], params: { shape: 'radial', exponent: 2 } },
    {
      title: 'Rings',
      keywords: ['circles', 'target', 'ripples'],
      params: { shape: 'radial', repeat: 8, mirror: true },
    },
    { title: 'Ridge roof', keywords: ['mirror', 'tent'], params: { shape: 'linear', mirror: true } },
  ],
  evaluate: (_, params, { grey: out }, { rows }) => {
    if (out) rampRows(params, out, rows)
  },
  example: { params: { shape: 'radial', radius: 0.4 } },
})
