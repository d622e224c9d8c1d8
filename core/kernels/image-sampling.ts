import { floorMod } from '../field/field'
import type { ImagePyramid, PyramidLevel } from '../field/pyramid'
import { log2 } from '../elementary'

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
  const base = pyramid.levels[0]!
  const texels = Math.max(footprint[0] * base.width, footprint[1] * base.height)
  const level = Math.min(pyramid.levels.length - 1, Math.max(0, texels > 0 ? log2(texels) : 0))
  const near = Math.floor(level)
  const fraction = level - near
  const wrap = EDGE[edge]
  const part = new Float64Array(4)
  return (u, v, texel) => {
    readLevel(pyramid.levels[near]!, wrap, u, v, texel)
    if (fraction === 0) return
    readLevel(pyramid.levels[near + 1]!, wrap, u, v, part)
    for (let c = 0; c < 4; c++) texel[c] = texel[c]! + (part[c]! - texel[c]!) * fraction
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
