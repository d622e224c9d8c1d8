import { defineNode } from '../../graph/define-node'
import { choice, integer, number } from '../../graph/parameters'
import { grey, any, vector } from '../../graph/ports'
import { COMBINE } from '../../kernels/warp'
import { PUSHES, warpAlongSlopes, warpFields } from '../../kernels/warp-fields'

/** Moves a field by an amount that other fields may steer. Source: own derivation. */
export default defineNode({
  type: 'warp',
  version: 1,
  family: 'move',
  title: 'Warp',
  summary: 'Moves what comes in: along an angle, along slopes, or by a vector field.',
  keywords: ['push', 'distort', 'displace', 'slope', 'break up', 'smear', 'drips', 'streaks'],
  usualFor: ['grey'],
  params: {
    along: choice({
      default: 'slope',
      options: PUSHES,
      help: 'One angle everywhere, downhill of the driver, or the vectors of a field.',
    }),
    strength: number({
      default: 0.02,
      min: -0.5,
      max: 0.5,
      softRange: [0, 0.1],
      unit: 'tile',
      help: 'How far at most.',
    }),
    angle: number({
      default: 0,
      min: -8,
      max: 8,
      softRange: [0, 1],
      unit: 'turn',
      help: 'Direction, counter-clockwise; turns slopes and vectors too.',
    }),
    steepness: number({
      visibleWhen: { along: ['slope'] },
      default: 8,
      min: 0.01,
      max: 1000,
      softRange: [1, 50],
      help: 'The slope, in greys a tile, that pushes by the full strength. Steeper ones push no further.',
    }),
    steps: choice({
      visibleWhen: { along: ['slope'] },
      default: 'one',
      options: ['one', 'small'],
      help: 'One move, or many small ones that follow the slope; all that is passed on the way is combined.',
    }),
    directions: integer({ default: 1, min: 1, max: 8, help: 'Pushes in so many directions around the circle.' }),
    combine: choice({
      default: 'average',
      options: COMBINE,
      help: 'How several directions, or all that is passed, come together.',
    }),
  },
  inputs: {
    source: any({ help: 'What is moved.' }),
    driver: grey({ help: 'For angle: how far, 0 to 1. For slope: the hills.', whenUnconnected: null }),
    vector: vector({ help: 'For vector: direction and share of the strength.', whenUnconnected: null }),
    strengthBy: grey({ help: 'Multiplies the strength, 0 to 1.', whenUnconnected: null }),
    angleBy: grey({ help: 'Adds to the angle, in turns.', whenUnconnected: null }),
  },
  outputs: { result: any({ help: 'What was moved.' }) },
  genericTypes: ['grey', 'colour', 'vector'],
  footprint: ({ strength }, { width }) => Math.ceil(Math.abs(strength) * width) + 3,
  presets: [
    { title: 'Wobble', keywords: ['shake', 'hand-made'], params: { along: 'slope', strength: 0.01 } },
    { title: 'Swept', keywords: ['wind', 'drift'], params: { along: 'angle', strength: 0.05 } },
    { title: 'Eroded', keywords: ['worn', 'flow'], params: { along: 'slope', strength: 0.03, steps: 'small' } },
  ],
  evaluate: ({ source, driver, vector: by, strengthBy, angleBy }, given, { result }, { width, tileTexels, rows }) => {
    if (!result) return
    // Both go by the width of the picture.
    const ratio = tileTexels / width
    const params = { ...given, strength: given.strength * ratio, steepness: given.steepness / ratio }
    if (params.along === 'slope' && params.steps === 'small') {
      warpAlongSlopes({ source, driver, strengthBy }, params, result, rows)
      return
    }
    warpFields({ source, driver, vector: by, strengthBy, angleBy }, params, result, rows)
  },
  example: {
    nodes: {
      cells: { type: 'cells', params: { cells: [5, 5] } },
      noise: { type: 'noise', params: { cells: [4, 4], octaves: 3 } },
    },
    inputs: { source: 'cells.border', driver: 'noise.grey' },
    params: { strength: 0.05, steepness: 6 },
  },
})
