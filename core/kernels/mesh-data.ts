import type { ImagePyramid } from '../field/pyramid'
import { imageReader, imageRows } from './image-sampling'
import type { Rows } from './rows'
import { simd } from './simd'

/**
 * Rows of mesh data at a size: the three numbers of each texel, interleaved. At the size they were baked at they are those that
 * were baked, else averages (coarser) or between texels (finer); numbers that stand for things come from the nearest texel.
 */
export function meshDataRows(
  pyramid: ImagePyramid,
  { width, height }: { readonly width: number; readonly height: number },
  rows: Rows,
  { nearest }: { readonly nearest: boolean },
  give: (y: number, row: Float32Array) => void,
): void {
  const base = pyramid.levels[0]!
  const row = new Float32Array(3 * width)
  const exact = !nearest && base.width === width && base.height === height
  const down = (y: number): number => (((y % height) + height) % height) + 0.5
  if (!nearest && !exact) return mixedRows(pyramid, { width, height }, rows, (y) => down(y) / height, row, give)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const line = Math.min(base.height - 1, Math.floor((down(y) / height) * base.height))
    for (let x = 0; x < width; x++) {
      const column = exact ? x : Math.min(base.width - 1, Math.floor(((x + 0.5) / width) * base.width))
      const at = (line * base.width + column) * 4
      row[3 * x] = base.texels[at]!
      row[3 * x + 1] = base.texels[at + 1]!
      row[3 * x + 2] = base.texels[at + 2]!
    }
    give(y, row)
  }
}

/** Rows from between texels; `vAt` is the place down of each. */
function mixedRows(
  pyramid: ImagePyramid,
  { width, height }: { readonly width: number; readonly height: number },
  rows: Rows,
  vAt: (y: number) => number,
  row: Float32Array,
  give: (y: number, row: Float32Array) => void,
): void {
  const footprint = [1 / width, 1 / height] as const
  const us = Float64Array.from({ length: width }, (_, x) => (x + 0.5) / width)
  const twin = simd()
  const read = imageReader(pyramid, 'clamp', footprint)
  const texel = new Float64Array(4)
  const all = (texelsAt: ((v: number) => Float64Array) | null): void => {
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const texels = texelsAt?.(vAt(y))
      for (let x = 0; x < width; x++) {
        if (!texels) read(us[x]!, vAt(y), texel)
        const from = texels ?? texel
        const at = texels ? 4 * x : 0
        row[3 * x] = from[at]!
        row[3 * x + 1] = from[at + 1]!
        row[3 * x + 2] = from[at + 2]!
      }
      give(y, row)
    }
  }
  if (!twin) return all(null)
  twin.scratch(() => {
    const rowAt = imageRows(twin, pyramid, 'clamp', footprint, us)
    all((v) => new Float64Array(twin.shared.buffer, rowAt(v), 4 * width))
  })
}
