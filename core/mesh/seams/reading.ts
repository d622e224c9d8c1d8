import type { Cover } from './cover'
import type { Unfolding } from './unfolding'

/** How far around a place a texel of the same island is looked for, where one of the four about it is a stranger's. */
const AROUND = 2

/** Whether a texel of the raster belongs to an island. */
export function isGood(
  { owner, boxes }: Cover,
  { width, height }: Unfolding,
  island: number,
  x: number,
  y: number,
): boolean {
  if (x < 0 || y < 0 || x >= width || y >= height || owner[y * width + x] !== island) return false
  const box = boxes[island]!
  const column = x - box.left
  const row = y - box.top
  return column >= 0 && row >= 0 && column < box.width && row < box.height && box.cover[row * box.width + column]! > 0
}

/** Where a value is read for a place, (0, 0) the centre of the first texel: between four texels of its island, or at the nearest. */
export function readable(
  cover: Cover,
  unfolding: Unfolding,
  island: number,
  x: number,
  y: number,
): [number, number] | null {
  const sx = Math.fround(x - 0.5)
  const sy = Math.fround(y - 0.5)
  const ix = Math.floor(sx)
  const iy = Math.floor(sy)
  const right = sx > ix ? ix + 1 : ix
  const below = sy > iy ? iy + 1 : iy
  if (
    isGood(cover, unfolding, island, ix, iy) &&
    isGood(cover, unfolding, island, right, iy) &&
    isGood(cover, unfolding, island, ix, below) &&
    isGood(cover, unfolding, island, right, below)
  )
    return [sx, sy]
  let nearest = Infinity
  let found: [number, number] | null = null
  for (let row = iy - AROUND; row <= iy + AROUND + 1; row++)
    for (let column = ix - AROUND; column <= ix + AROUND + 1; column++) {
      if (!isGood(cover, unfolding, island, column, row)) continue
      const away = (column - sx) * (column - sx) + (row - sy) * (row - sy)
      if (away < nearest) {
        nearest = away
        found = [column, row]
      }
    }
  return found
}
