import { rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { number, toggle } from '../../graph/parameters'
import { grey, normal } from '../../graph/ports'
import { weightOf } from '../../kernels/blend-fields'
import { cosTurns, sinTurns } from '../../elementary'

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
  evaluate: ({ source, mask }, params, { normal: out }, { width, rows }) => {
    if (!out) return
    const cos = cosTurns(params.turn)
    const sin = sinTurns(params.turn)
    const [sx, sy, sz] = source.planes as [Float32Array, Float32Array, Float32Array]
    const [ox, oy, oz] = out.planes as [Float32Array, Float32Array, Float32Array]
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const s = rowStart(source, y)
      const o = rowStart(out, y)
      const m = mask ? rowStart(mask, y) : 0
      for (let x = 0; x < width; x++) {
        const strength = params.strength * (mask ? weightOf(mask.planes[0]![m + x]!, 1) : 1)
        const green = params.flipGreen ? -sy[s + x]! : sy[s + x]!
        const nx = (sx[s + x]! * cos - green * sin) * strength
        const ny = (sx[s + x]! * sin + green * cos) * strength
        const nz = sz[s + x]!
        const length = Math.sqrt(nx * nx + ny * ny + nz * nz)
        const known = length > 1e-20
        ox[o + x] = known ? Math.fround(nx / length) + 0 : 0
        oy[o + x] = known ? Math.fround(ny / length) + 0 : 0
        oz[o + x] = known ? Math.fround(nz / length) + 0 : 1
      }
    }
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
