import { defineNode } from '../../graph/define-node'
import { number, toggle } from '../../graph/parameters'
import { grey, normal } from '../../graph/ports'
import { adjustNormals } from '../../kernels/normals'

/** Slopes scaled and turned, then brought to unit length. Source: own derivation. */
export default defineNode({
  type: 'adjust-normal',
  version: 1,
  family: 'surface',
  title: 'Adjust normal',
  summary: 'Scales the slopes of normals, turns them, or flips their green.',
  keywords: ['normal strength', 'intensity', 'rotate normal', 'flip green', 'y down', 'invert'],
  params: {
    strength: number({
      default: 1,
      min: -32,
      max: 32,
      softRange: [0, 4],
      help: 'Scales the slopes; 0 is flat, 1 leaves them.',
    }),
    turn: number({
      default: 0,
      min: -8,
      max: 8,
      softRange: [-0.5, 0.5],
      unit: 'turn',
      help: 'Turns the directions, counter-clockwise: for a picture of normals that was turned itself.',
    }),
    flipGreen: toggle({ default: false, title: 'Flip green', help: 'From Y down to Y up, or back.' }),
  },
  inputs: {
    source: normal({ help: 'The normals.' }),
    mask: grey({ help: 'Multiplies the strength, 0 to 1.', whenUnconnected: null }),
  },
  outputs: { normal: normal({ help: 'The changed normals, of unit length.' }) },
  footprint: 'point',
  evaluate: ({ source, mask }, params, { normal: out }, { rows }) => {
    if (out) adjustNormals(source, mask, out, rows, params)
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4] } },
      slopes: { type: 'height-to-normal', params: { strength: 3 }, inputs: { height: 'noise.grey' } },
    },
    inputs: { source: 'slopes.normal' },
    params: { strength: 2, turn: 0.125 },
  },
})
