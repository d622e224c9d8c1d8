import type { Field } from '../field/field'
import { fieldPlanes } from '../field/field'
import type { Patch, PatchSet } from '../field/patches'
import { forBeyond, valueAt } from '../field/patches'
import { newRead, unpackRead } from '../field/reads'
import { simd } from './simd'

/** Brings a plane of the raster into a patch: own texels as they are, others between the four around their place. `width` is the raster's. */
export function gatherPlane(patch: Patch, plane: Float32Array, width: number, out: Float32Array): void {
  const { runs, beyond, reads, fraction } = patch
  const twin = simd()
  const at = twin?.inPlaceAll([runs, beyond, reads, plane, out])
  if (at)
    return twin!.assembly.gatherPlane(
      ...([at[0]!, runs.length / 3, at[1]!, beyond.length / 2, at[2]!, fraction, at[3]!, width, at[4]!] as const),
    )
  for (let r = 0; r < runs.length; r += 3) {
    const [to, from, length] = [runs[r]!, runs[r + 1]!, runs[r + 2]!]
    for (let i = 0; i < length; i++) out[to + i] = plane[from + i]!
  }
  const read = newRead()
  forBeyond(beyond, (to, i) => {
    const { x, y } = unpackRead(reads, i, fraction, read)
    out[to] = valueAt(plane, width, x, y)
  })
}

/** Writes the own texels of a patch back into the raster. */
export function scatterPlane<T extends Float32Array | Uint32Array>({ runs }: Patch, plane: T, out: T): void {
  const twin = simd()
  const at = twin?.inPlaceAll([runs, plane, out])
  if (at) return twin!.assembly.scatterPlane(at[0]!, runs.length / 3, at[1]!, at[2]!)
  for (let r = 0; r < runs.length; r += 3)
    for (let i = 0; i < runs[r + 2]!; i++) out[runs[r + 1]! + i] = plane[runs[r]! + i]!
}

/** Fills rows of a field with those of another, but what belongs to no island with what the nearest texel of one holds. */
export function padRows(source: Field, set: PatchSet, target: Field, from: number, to: number): void {
  const { width } = target
  if (source.stride === 0) {
    source.planes.forEach((plane, p) => target.planes[p]!.fill(plane[0]!, from * width, to * width))
    return
  }
  source.planes.forEach((plane, p) => target.planes[p]!.set(plane.subarray(from * width, to * width), from * width))
  for (const [p, plane] of source.planes.entries()) fillFrom(plane, set.nearest, target.planes[p]!, from, to, width)
}

/** Fills what belongs to no island in rows of a field whose islands are done, from the nearest texel that belongs to one; 0 where none does. */
export function fillRows(field: Field, { nearest }: PatchSet, from: number, to: number): void {
  const { width } = field
  for (const plane of fieldPlanes(field)) {
    if (nearest[0] === -1) plane.fill(0, from * width, to * width)
    else fillFrom(plane, nearest, plane, from, to, width)
  }
}

/** Fills rows of a plane from those texels that `nearest` names; a texel that is its own, or has none, stays. */
export function fillFrom<T extends Float32Array | Uint32Array>(
  plane: T,
  nearest: Int32Array,
  out: T,
  from: number,
  to: number,
  width: number,
): void {
  const twin = simd()
  const at = twin?.inPlaceAll([plane, nearest, out])
  if (at) return twin!.assembly.fillNearest(at[0]!, at[1]!, at[2]!, from * width, to * width)
  for (let i = from * width; i < to * width; i++) {
    const at = nearest[i]!
    if (at !== i && at >= 0) out[i] = plane[at]!
  }
}

/** The same of several planes, in place. */
export function fillAllFrom(
  planes: readonly Float32Array[],
  nearest: Int32Array,
  from: number,
  to: number,
  width: number,
): void {
  const twin = simd()
  const at = twin?.inPlaceAll([nearest, ...planes])
  if (!at) return planes.forEach((plane) => fillFrom(plane, nearest, plane, from, to, width))
  twin!.scratch(() => {
    const [texels, room] = [[from * width, to * width] as const, twin!.take(2 * (to - from) * width)]
    twin!.assembly.fillAllNearest(twin!.offsets(at.slice(1)), planes.length, at[0]!, ...texels, room)
  })
}
