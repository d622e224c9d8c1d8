import type { ImagePyramid } from '../field/pyramid'
import { imageReader } from './image-sampling'
import type { Rows } from './rows'

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
  const read = imageReader(pyramid, 'clamp', [1 / width, 1 / height])
  const texel = new Float64Array(4)
  const exact = !nearest && base.width === width && base.height === height
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const down = (((y % height) + height) % height) + 0.5
    const line = nearest || exact ? Math.min(base.height - 1, Math.floor((down / height) * base.height)) : 0
    for (let x = 0; x < width; x++) {
      if (nearest || exact) {
        const column = exact ? x : Math.min(base.width - 1, Math.floor(((x + 0.5) / width) * base.width))
        const at = (line * base.width + column) * 4
        for (let k = 0; k < 3; k++) row[3 * x + k] = base.texels[at + k]!
      } else {
        read((x + 0.5) / width, down / height, texel)
        for (let k = 0; k < 3; k++) row[3 * x + k] = texel[k]!
      }
    }
    give(y, row)
  }
}
