import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { bounded } from '../field/limits'
import type { Rows } from './rows'

/** Nine numbers of a frame from `at` on: its tangent, its bitangent, its normal; neither of length 1 nor at right angles for certain. */
type Frame = Float32Array

/** The unit vector at `to` of numbers; +Z where they are of no length. */
function setUnit(out: Float32Array, to: number, x: number, y: number, z: number): void {
  const length = Math.sqrt(x * x + y * y + z * z)
  out[to] = length > 0 ? x / length : 0
  out[to + 1] = length > 0 ? y / length : 0
  out[to + 2] = length > 0 ? z / length : 1
}

/** A direction of a frame in the space that the frame stands in: x·T + y·B + z·N, of unit length (glTF 2.0, 3.9.3). */
export function outOfFrame(
  frame: Frame,
  at: number,
  x: number,
  y: number,
  z: number,
  out: Float32Array,
  to: number,
): void {
  setUnit(
    out,
    to,
    x * frame[at]! + y * frame[at + 3]! + z * frame[at + 6]!,
    x * frame[at + 1]! + y * frame[at + 4]! + z * frame[at + 7]!,
    x * frame[at + 2]! + y * frame[at + 5]! + z * frame[at + 8]!,
  )
}

/** The inverse: a direction of the space in the frame, of unit length; +Z where the frame is flat. */
function intoFrame(frame: Frame, at: number, x: number, y: number, z: number, out: Float32Array, to: number): void {
  const tx = frame[at]!
  const ty = frame[at + 1]!
  const tz = frame[at + 2]!
  const bx = frame[at + 3]!
  const by = frame[at + 4]!
  const bz = frame[at + 5]!
  const nx = frame[at + 6]!
  const ny = frame[at + 7]!
  const nz = frame[at + 8]!
  // Cross products over the determinant.
  const ux = by * nz - bz * ny
  const uy = bz * nx - bx * nz
  const uz = bx * ny - by * nx
  const determinant = tx * ux + ty * uy + tz * uz
  setUnit(
    out,
    to,
    (ux * x + uy * y + uz * z) / determinant,
    ((ny * tz - nz * ty) * x + (nz * tx - nx * tz) * y + (nx * ty - ny * tx) * z) / determinant,
    ((ty * bz - tz * by) * x + (tz * bx - tx * bz) * y + (tx * by - ty * bx) * z) / determinant,
  )
}

/** The axes of frames as fields of three planes each. */
export interface FrameFields {
  readonly tangent: Field
  readonly bitangent: Field
  readonly low: Field
}

/** Directions out of their frames, or into them. Shapes: three planes each. */
export function throughFrames(
  source: Field,
  { tangent, bitangent, low }: FrameFields,
  out: Field,
  rows: Rows,
  way: 'out' | 'in',
): void {
  const turn = way === 'out' ? outOfFrame : intoFrame
  const [tx, ty, tz] = tangent.planes as Triple
  const [bx, by, bz] = bitangent.planes as Triple
  const [nx, ny, nz] = low.planes as Triple
  const [sx, sy, sz] = source.planes as Triple
  const [ox, oy, oz] = out.planes as Triple
  const frame = new Float32Array(9)
  const made = new Float32Array(3)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [s, o] = [rowStart(source, y), rowStart(out, y)]
    const [t, b, n] = [rowStart(tangent, y), rowStart(bitangent, y), rowStart(low, y)]
    for (let x = 0; x < out.width; x++) {
      frame[0] = tx[t + x]!
      frame[1] = ty[t + x]!
      frame[2] = tz[t + x]!
      frame[3] = bx[b + x]!
      frame[4] = by[b + x]!
      frame[5] = bz[b + x]!
      frame[6] = nx[n + x]!
      frame[7] = ny[n + x]!
      frame[8] = nz[n + x]!
      turn(frame, 0, sx[s + x]!, sy[s + x]!, sz[s + x]!, made, 0)
      ox[o + x] = bounded(made[0]!)
      oy[o + x] = bounded(made[1]!)
      oz[o + x] = bounded(made[2]!)
    }
  }
}

type Triple = [Float32Array, Float32Array, Float32Array]
