import { defineNode } from '../../graph/define-node'
import { choice, number } from '../../graph/parameters'
import { grey, any } from '../../graph/ports'
import { blurAlongLines } from '../../kernels/line-blur'
import { COMBINE } from '../../kernels/warp'

/** A field filtered along a line. Source: own derivation. */
export default defineNode({
  type: 'directional-blur',
  version: 2,
  family: 'move',
  title: 'Directional blur',
  summary: 'Blurs along a line, or keeps the darkest or brightest on it.',
  keywords: ['smear', 'motion blur', 'streaks', 'drag'],
  params: {
    length: number({ default: 0.05, min: 0, max: 0.5, softRange: [0, 0.2], unit: 'tile', help: 'How far.' }),
    angle: number({
      default: 0,
      min: -8,
      max: 8,
      softRange: [0, 1],
      unit: 'turn',
      help: 'Direction of the line, counter-clockwise.',
    }),
    from: choice({
      default: 'middle',
      options: ['middle', 'end'],
      help: 'The line runs to both sides of each place, or away from where things come from.',
    }),
    combine: choice({
      default: 'average',
      options: COMBINE,
      help: 'What is kept of all that is passed.',
    }),
  },
  inputs: {
    source: any({ help: 'What is blurred.' }),
    lengthBy: grey({ help: 'Multiplies the length, 0 to 1.', whenUnconnected: null }),
    angleBy: grey({ help: 'Adds to the angle of the line, in turns.', whenUnconnected: null }),
  },
  outputs: { result: any({ help: 'What was blurred.' }) },
  genericTypes: ['grey', 'colour', 'vector'],
  upgrade: { 1: (params) => params },
  footprint: ({ length }, { width }) => Math.ceil(length * width) + 3,
  presets: [
    {
      title: 'Runs',
      keywords: ['drips', 'streaks', 'down'],
      params: { length: 0.25, angle: 0.75, from: 'end', combine: 'maximum' },
    },
    { title: 'Brushed', keywords: ['metal', 'stroke'], params: { length: 0.2, angle: 0, from: 'middle' } },
  ],
  evaluate: ({ source, lengthBy, angleBy }, params, { result }, { width, tileTexels, rows }) => {
    if (!result) return
    const length = params.length * (tileTexels / width)
    blurAlongLines({ source, lengthBy, angleBy }, { ...params, length }, result, rows)
  },
  example: {
    nodes: {
      spots: { type: 'spots', params: { cells: [6, 6], size: [0.6, 1.2] } },
      noise: { type: 'noise', params: { cells: [4, 4], octaves: 2 } },
    },
    inputs: { source: 'spots.grey', lengthBy: 'noise.grey' },
    params: { length: 0.02, angle: 0.1 },
  },
})
