import type { Room } from './baking-room'
import { bakingSimd, roomFor } from './baking-room'

/** Tangent frames of samples, three numbers each; neither of length 1 nor at right angles for certain. */
export interface TangentFrames {
  readonly tangents: Float32Array
  readonly bitangents: Float32Array
  readonly normals: Float32Array
}

/**
 * Directions in tangent frames, three numbers each, of length 1: what renderers make them of again by x·T + y·B + z·N (glTF 2.0, 3.7.2.1 and
 * 3.9.3). `directions` begin at `from`, each `apart` numbers after the one before; NaN in the first of one stays.
 */
export function intoTangentFrames(
  { tangents, bitangents, normals }: TangentFrames,
  directions: Float32Array,
  { from, apart }: { readonly from: number; readonly apart: number },
  room: Room,
): Float32Array {
  const twin = bakingSimd()
  const out = room(normals.length)
  twin.scratch(() => {
    const to = roomFor(twin, out)
    const frames = [twin.allOf(tangents), twin.allOf(bitangents), twin.allOf(normals)] as const
    twin.assembly.intoFrames(...frames, twin.allOf(directions) + from * 4, apart * 4, normals.length / 3, to.at)
    to.done()
  })
  return out
}

/** Normals out of `places` (places and normals, six numbers each), three numbers each; NaN where a height is NaN. */
export function normalsWhereMet(places: Float32Array, heights: Float32Array, room: Room): Float32Array {
  const twin = bakingSimd()
  const out = room(heights.length * 3)
  twin.scratch(() => {
    const to = roomFor(twin, out)
    twin.assembly.normalsWhereMet(twin.allOf(places), twin.allOf(heights), heights.length, to.at)
    to.done()
  })
  return out
}
