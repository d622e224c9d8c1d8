import { defineNode } from '../../graph/define-node'
import { number, pair, toggle } from '../../graph/parameters'
import { any } from '../../graph/ports'
import { transformField } from '../../kernels/transform'
import { freeTurn, tilingTurn } from '../../kernels/placement'

/** Most samples along each side of a texel. */
const FINEST = 8

/** A field moved, turned and resized. Source: own derivation (kernels/placement.ts). */
export default defineNode({
  type: 'transform',
  version: 1,
  family: 'move',
  title: 'Transform',
  summary: 'Moves, turns and resizes what comes in, about the middle of the tile.',
  keywords: ['place', 'transform', 'offset', 'rotate', 'scale', 'tile', 'repeat', 'shift', 'mirror'],
  params: {
    offset: pair({ default: [0, 0], min: -4, max: 4, softRange: [-0.5, 0.5], unit: 'tile', help: 'Right and down.' }),
    angle: number({
      default: 0,
      min: -8,
      max: 8,
      softRange: [-0.5, 0.5],
      unit: 'turn',
      help: 'Counter-clockwise turn.',
    }),
    scale: number({
      default: 1,
      min: 0.02,
      max: 50,
      softRange: [0.125, 4],
      help: '2 is twice as large, ½ goes twice into the tile.',
    }),
    keepTiling: toggle({
      default: true,
      title: 'Keep tiling',
      help: 'Takes the nearest turn and size at which the result still tiles; it can then only get smaller.',
    }),
  },
  inputs: { source: any({ help: 'What is placed. The directions of vectors are not turned with it.' }) },
  outputs: { result: any({ help: 'The placed field.' }) },
  genericTypes: ['grey', 'colour', 'vector'],
  // A turned row crosses the whole source; a band of the result can still be made by itself.
  footprint: (_, { height }) => height,
  uses: ['metres'],
  notes: ({ angle, scale, keepTiling }, { metres }) => {
    if (!keepTiling) return ['The result does not tile unless what comes in is one value.']
    const { repeats, turns } = tilingTurn(angle, scale, metres[0] === metres[1])
    return [`Goes ${Number(repeats.toFixed(3))} times into the tile, turned by ${Number(turns.toFixed(3))} turns.`]
  },
  evaluate: ({ source }, { offset, angle, scale, keepTiling }, { result }, { width, height, rows, metres }) => {
    if (!result) return
    const { a, b, c, d, repeats } = keepTiling
      ? tilingTurn(angle, scale, metres[0] === metres[1])
      : freeTurn(angle, scale)
    const fine = Math.min(FINEST, Math.max(1, Math.ceil(repeats)))
    const [mx, my] = [width / 2 + offset[0] * width, height / 2 + offset[1] * width]
    transformField(source, result, rows, { a, b, c, d, mx, my, fine })
  },
  example: {
    nodes: { spots: { type: 'spots', params: { cells: [4, 4], size: [0.6, 1.4], vary: 0.6 } } },
    inputs: { source: 'spots.grey' },
    params: { angle: 0.11, scale: 0.5, offset: [0.1, 0] },
  },
})
