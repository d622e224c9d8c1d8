import { cosTurns, sinTurns } from '../../elementary'
import type { Bond, BondRequest, Laying } from './bond'
import { rectangle, snap } from './bond'

/** Rows of equal units; `offset` moves each row, the rows' number a multiple of `cycle`. */
function courses({ columns, aspect, height }: BondRequest, cycle: number, offset: (row: number) => number): Laying {
  const width = 1 / columns
  const rows = snap((height * aspect) / width, cycle)
  const depth = height / rows
  const units = Array.from({ length: rows * columns }, (_, i) => {
    const row = Math.floor(i / columns)
    const x = ((i % columns) + offset(row)) * width
    return { outline: rectangle(x, row * depth, x + width, (row + 1) * depth), turns: 0 }
  })
  return { units, counts: [columns, rows] }
}

/** Joints in line both ways. */
export const stack: Bond = (request) => courses(request, 1, () => 0)

/** Every other course moved. */
export const running: Bond = (request) =>
  courses(request, request.shift === 0 ? 1 : 2, (row) => (row % 2) * request.shift)

/** Each course moved by a third more than the one above. */
export const thirdRunning: Bond = (request) => courses(request, 3, (row) => (row % 3) / 3)

/** Courses of units of unlike widths. */
export const randomWidths: Bond = ({ columns, aspect, height, spread, random }) => {
  const rows = snap(height * aspect * columns)
  const depth = height / rows
  const units = Array.from({ length: rows }, (_, row) => {
    const start = random(row, columns)
    const cut = (i: number): number => {
      const around = i === columns ? 0 : i
      return start + (i + (random(row, around) - 0.5) * spread) / columns
    }
    return Array.from({ length: columns }, (_, i) => ({
      outline: rectangle(cut(i), row * depth, cut(i + 1), (row + 1) * depth),
      turns: 0,
    }))
  }).flat()
  return { units, counts: [columns, rows] }
}

/** Slanted units whose rise turns about from column to column. */
export const chevron: Bond = ({ columns: wanted, aspect, slant, height }) => {
  const columns = snap(wanted, 2)
  const width = 1 / columns
  const rise = (width * sinTurns(slant)) / cosTurns(slant)
  const rows = snap((height * aspect) / width)
  const depth = height / rows
  const units = Array.from({ length: rows * columns }, (_, i) => {
    const row = Math.floor(i / columns)
    const column = i % columns
    const [left, right] = column % 2 === 0 ? [0, -rise] : [-rise, 0]
    const [x0, x1] = [column * width, (column + 1) * width]
    const [top, low] = [row * depth, (row + 1) * depth]
    return {
      outline: [x0, top + left, x1, top + right, x1, low + right, x0, low + left],
      turns: column % 2 === 0 ? slant : -slant,
    }
  })
  return { units, counts: [columns, rows] }
}
