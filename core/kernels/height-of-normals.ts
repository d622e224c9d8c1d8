import { sinTurns } from '../elementary'
import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { bounded } from '../field/limits'
import { fourierPlane } from './fourier'
import type { Rows } from './rows'

/** How slopes were measured: of the continuous surface, or as differences between the neighbours of a texel. */
export const SLOPES_WERE = ['central', 'true'] as const
export type SlopesWere = (typeof SLOPES_WERE)[number]

/** Steepest slope that counts: what lies nearly on edge tells of no height. */
const STEEPEST = 100

/**
 * The height whose slopes are nearest to those of normals in the least squares sense, of a surface that repeats; its mean is ½.
 * Units: `slopeScale` as normalsOfHeight has it. Shape: whole fields.
 * Source: R. T. Frankot, R. Chellappa, "A Method for Enforcing Integrability in Shape from Shading Algorithms", IEEE PAMI 10 (4), 1988, eq. 21:
 * H = −i (u·P + v·Q) / (u² + v²). With central differences u is sin of the angle a texel, whose zero at the highest frequency is left out.
 */
export function heightOfNormals(
  normals: Field,
  out: Field,
  rows: Rows,
  slopeScale: number,
  were: SlopesWere,
  scratch?: Field | null,
): void {
  const { width, height } = normals
  const [nx, ny, nz] = normals.planes as [Float32Array, Float32Array, Float32Array]
  // P and Q are real: they go through one transform as a complex number, and come apart by its symmetry.
  const [re, im] = doubles(width * height, scratch)
  for (let y = 0; y < height; y++) {
    const from = rowStart(normals, y)
    for (let x = 0; x < width; x++) {
      const z = Math.max(nz[from + x]!, 1 / STEEPEST)
      re[y * width + x] = -nx[from + x]! / z / slopeScale
      // v runs down, +Y up.
      im[y * width + x] = ny[from + x]! / z / slopeScale
    }
  }
  fourierPlane(re, im, width, height, rows.check)
  const [u, v] = [frequencies(width, were), frequencies(height, were)]
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = y * width + x
      const mirrored = ((height - y) % height) * width + ((width - x) % width)
      if (mirrored < at) continue
      const square = u[x]! * u[x]! + v[y]! * v[y]!
      const [pr, pi] = [(re[at]! + re[mirrored]!) / 2, (im[at]! - im[mirrored]!) / 2]
      const [qr, qi] = [(im[at]! + im[mirrored]!) / 2, (re[mirrored]! - re[at]!) / 2]
      const known = square < 1e-18 ? 0 : 1 / square
      const [hr, hi] = [known * (u[x]! * pi + v[y]! * qi), -known * (u[x]! * pr + v[y]! * qr)]
      // The height is real too: its mirrored frequencies are conjugate.
      re[mirrored] = hr
      im[mirrored] = -hi
      re[at] = hr
      im[at] = mirrored === at ? 0 : hi
    }
  // Back: real and imaginary parts swapped.
  fourierPlane(im, re, width, height, rows.check)
  const plane = out.planes[0]!
  for (let y = rows.from; y < rows.to; y++) {
    const to = rowStart(out, y)
    for (let x = 0; x < width; x++) plane[to + x] = bounded(Math.fround(0.5 + re[y * width + x]! / (width * height)))
  }
}

/** Planes of 32 bits that heightOfNormals works in. */
export const HEIGHT_SCRATCH = 4

/** Two planes of doubles, in the room given where there is one. */
function doubles(length: number, scratch: Field | null | undefined): [Float64Array, Float64Array] {
  const plane = scratch?.planes[0]
  if (!plane || plane.byteOffset % 8 !== 0) return [new Float64Array(length), new Float64Array(length)]
  return [
    new Float64Array(plane.buffer, plane.byteOffset, length),
    new Float64Array(plane.buffer, plane.byteOffset + 8 * length, length),
  ]
}

/** What a derivative multiplies each frequency by (over i), in radians a texel. */
function frequencies(length: number, were: SlopesWere): Float64Array {
  return Float64Array.from({ length }, (_, k) => {
    const turns = (2 * k < length ? k : k - length) / length
    if (were === 'central') return 2 * k === length ? 0 : sinTurns(turns)
    // Half a turn is its own mirror image: a derivative of it is not real.
    return 2 * k === length ? 0 : 2 * Math.PI * turns
  })
}
