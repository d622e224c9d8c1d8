import type { Field } from '../field/field'

/** Cells along a side of the raster that marks are gathered in, and how many marks there are at most. */
const CELLS = 16
const MOST = 12

/** A place in a map, tile units, v down. */
export type Mark = readonly [number, number]

/** The share of a field's texels that are so, and where: the middles of the cells that hold most of them, fullest first. */
export function texelsWhere(
  field: Pick<Field, 'width' | 'rows'>,
  is: (x: number, y: number) => boolean,
): { ratio: number; marks: Mark[] } {
  const { width, rows } = field
  const cells = new Map<number, { count: number; x: number; y: number }>()
  let count = 0
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < width; x++) {
      if (!is(x, y)) continue
      count++
      const at = Math.floor((y * CELLS) / rows) * CELLS + Math.floor((x * CELLS) / width)
      const cell = cells.get(at)
      if (!cell) cells.set(at, { count: 1, x, y })
      else {
        cell.count++
        cell.x += x
        cell.y += y
      }
    }
  const marks = [...cells.values()]
    .sort((a, b) => b.count - a.count)
    .slice(0, MOST)
    .map((cell): Mark => [(cell.x / cell.count + 0.5) / width, (cell.y / cell.count + 0.5) / rows])
  return { ratio: count / (width * rows), marks }
}
