import { floorMod } from '../field/field'
import type { ImagePyramid, PyramidLevel } from '../field/pyramid'
import { log2 } from '../elementary'
import type { Simd } from './simd'

export const EDGES = ['tile', 'clamp', 'mirror'] as const
export type Edge = (typeof EDGES)[number]

/** Red, green, blue (multiplied by alpha) and alpha at a place of the image, into `texel`. */
export type ImageAt = (u: number, v: number, texel: Float64Array) => void

const EDGE: Record<Edge, (i: number, n: number) => number> = {
  tile: floorMod,
  clamp: (i, n) => (i < 0 ? 0 : i >= n ? n - 1 : i),
  mirror: (i, n) => {
    const k = floorMod(i, 2 * n)
    return k < n ? k : 2 * n - 1 - k
  },
}

/**
 * Reads an image bilinearly at image coordinates (0–1, v down), between the two mip levels whose texels come nearest
 * to `footprint`, the share of the image's width and height that one result texel covers.
 * Source: L. Williams, "Pyramidal Parametrics", SIGGRAPH 1983.
 */
export function imageReader(pyramid: ImagePyramid, edge: Edge, footprint: readonly [number, number]): ImageAt {
  const { near, fraction } = levelFor(pyramid, footprint)
  const wrap = EDGE[edge]
  const part = new Float64Array(4)
  return (u, v, texel) => {
    readLevel(pyramid.levels[near]!, wrap, u, v, texel)
    if (fraction === 0) return
    readLevel(pyramid.levels[near + 1]!, wrap, u, v, part)
    for (let c = 0; c < 4; c++) texel[c] = texel[c]! + (part[c]! - texel[c]!) * fraction
  }
}

/** The finer of the two levels that are read, and how far the coarser one counts. */
export function levelFor(
  { levels }: ImagePyramid,
  footprint: readonly [number, number],
): { readonly near: number; readonly fraction: number } {
  const base = levels[0]!
  const texels = Math.max(footprint[0] * base.width, footprint[1] * base.height)
  const level = Math.min(levels.length - 1, Math.max(0, texels > 0 ? log2(texels) : 0))
  const near = Math.floor(level)
  return { near, fraction: level - near }
}

/**
 * The same for rows of places: `us` are their places across, and each row has one place down. Gives the byte offset of four
 * float64 a place, good until the next row. Twin of imageReader: core/kernels/assembly/image.ts.
 */
export function imageRows(
  twin: Simd,
  pyramid: ImagePyramid,
  edge: Edge,
  footprint: readonly [number, number],
  us: Float64Array,
): (v: number) => number {
  const { near, fraction } = levelFor(pyramid, footprint)
  const out = twin.take(8 * us.length)
  const readers = (fraction === 0 ? [near] : [near, near + 1]).map((level) =>
    levelRows(twin, pyramid.levels[level]!, EDGE[edge], us),
  )
  return (v) => {
    readers.forEach((read, i) => read(v, out, i === 0 ? 0 : fraction))
    return out
  }
}

function levelRows(
  twin: Simd,
  { width, height, texels }: PyramidLevel,
  wrap: (i: number, n: number) => number,
  us: Float64Array,
): (v: number, out: number, fraction: number) => void {
  const count = us.length
  const [left, right, across] = [twin.take(count), twin.take(count), twin.take(2 * count)]
  const [lefts, rights] = [twin.ints(left, count), twin.ints(right, count)]
  const parts = new Float64Array(twin.shared.buffer, across, count)
  us.forEach((u, i) => {
    const px = u * width - 0.5
    const ix = Math.floor(px)
    lefts[i] = 16 * wrap(ix, width)
    rights[i] = 16 * wrap(ix + 1, width)
    parts[i] = px - ix
  })
  // Where the level lies outside the shared memory, two of its rows are copied, each by the parity of its number, so that the lower one is the upper one of the next.
  const inPlace = twin.shared.offsetOf(texels)
  const slots = [0, 1].map(() => ({ at: inPlace < 0 ? twin.take(4 * width) : 0, row: NaN }))
  const bring = (row: number, slot: number): number => {
    if (inPlace >= 0) return inPlace + 16 * width * row
    const held = slots[slot]!
    if (held.row !== row) {
      twin.floats(held.at, 4 * width).set(texels.subarray(4 * width * row, 4 * width * (row + 1)))
      held.row = row
    }
    return held.at
  }
  return (v, out, fraction) => {
    const py = v * height - 0.5
    const iy = Math.floor(py)
    const slot = floorMod(iy, 2)
    const [upper, lower] = [bring(wrap(iy, height), slot), bring(wrap(iy + 1, height), 1 - slot)]
    twin.assembly.readTexels(upper, lower, left, right, across, py - iy, out, count, fraction)
  }
}

function readLevel(
  level: PyramidLevel,
  wrap: (i: number, n: number) => number,
  u: number,
  v: number,
  out: Float64Array,
): void {
  const { width, height, texels } = level
  const px = u * width - 0.5
  const py = v * height - 0.5
  const ix = Math.floor(px)
  const iy = Math.floor(py)
  const tx = px - ix
  const ty = py - iy
  const x0 = wrap(ix, width)
  const x1 = wrap(ix + 1, width)
  const r0 = wrap(iy, height) * width
  const r1 = wrap(iy + 1, height) * width
  for (let c = 0; c < 4; c++) {
    const a = texels[(r0 + x0) * 4 + c]!
    const b = texels[(r1 + x0) * 4 + c]!
    const top = a + (texels[(r0 + x1) * 4 + c]! - a) * tx
    const low = b + (texels[(r1 + x1) * 4 + c]! - b) * tx
    out[c] = top + (low - top) * ty
  }
}
