import type { Polygon } from '../polygon'
import type { Bond } from './bond'
import { rectangle, snap } from './bond'

/**
 * Herringbone at 90°: units lie by turns along and across, each ending at the side of the next.
 * With length l and breadth w ≤ l the pattern repeats by (w, w) and (l, −l). That closes over 1 across where l and w are
 * 1/2c and 1/2m, and down the tile where its height is a multiple of 1/gcd(c, m); else it is stretched to that. The
 * pairs to lay are one of each class of such steps (the lattice's Hermite normal form). Own derivation.
 */
export const herringbone: Bond = ({ columns: across, aspect, height }) => {
  const columns = snap(across / 2)
  const wide = Math.max(columns, snap(columns * aspect))
  const [length, breadth] = [1 / (2 * columns), 1 / (2 * wide)]
  const common = greatestDivisor(columns, wide)
  const closed = snap(height * common)
  const by = (height * common) / closed
  const shared = greatestDivisor(common, closed)
  const stretched = (corners: Polygon): Polygon => corners.map((v, i) => (i % 2 ? v * by : v))
  const units = []
  for (let i = 0; i < (2 * wide * closed) / shared; i++)
    for (let j = 0; j < (columns * shared) / common; j++) {
      const [x, y] = [i * breadth + j * length, i * breadth - j * length]
      units.push(
        { outline: stretched(rectangle(x, y, x + length, y + breadth)), turns: 0 },
        { outline: stretched(rectangle(x, y + breadth, x + breadth, y + breadth + length)), turns: 0.25 },
      )
    }
  return { units, counts: [2 * columns, 2 * wide] }
}

const greatestDivisor = (a: number, b: number): number => (b === 0 ? a : greatestDivisor(b, a % b))

/** The same turned by an eighth, its points up and down: it repeats by √2·l across and by √2·w down. */
export const diagonalHerringbone: Bond = ({ columns: across, aspect, height }) => {
  const columns = snap(across * Math.SQRT1_2)
  const length = Math.SQRT1_2 / columns
  const rows = snap(Math.max(1, aspect) * height * columns)
  const breadth = Math.min(length, (height * Math.SQRT1_2) / rows)
  const by = height / (rows * breadth * Math.SQRT2)
  const turned = (corners: Polygon): Polygon => {
    const out: number[] = []
    for (let i = 0; i < corners.length; i += 2) {
      const [x, y] = [corners[i]!, corners[i + 1]!]
      out.push((x - y) * Math.SQRT1_2, (x + y) * Math.SQRT1_2 * by)
    }
    return out
  }
  const units = []
  for (let j = 0; j < columns; j++)
    for (let i = 0; i < rows; i++) {
      const [x, y] = [i * breadth + j * length, i * breadth - j * length]
      units.push(
        { outline: turned(rectangle(x, y, x + length, y + breadth)), turns: -0.125 },
        { outline: turned(rectangle(x, y + breadth, x + breadth, y + breadth + length)), turns: 0.125 },
      )
    }
  return { units, counts: [columns, rows] }
}

/** Blocks of parallel units, by turns along and across. */
export const basket: Bond = ({ columns: wanted, aspect, height }) => {
  const columns = snap(wanted, 2)
  const many = snap(aspect)
  const side = 1 / columns
  const rows = snap(height * columns, 2)
  const down = height / rows
  const units = []
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++)
      for (let k = 0; k < many; k++) {
        const [x, y] = [column * side, row * down]
        const along = (row + column) % 2 === 0
        const [from, to] = [k / many, (k + 1) / many]
        units.push(
          along
            ? { outline: rectangle(x, y + from * down, x + side, y + to * down), turns: 0 }
            : { outline: rectangle(x + from * side, y, x + to * side, y + down), turns: 0.25 },
        )
      }
  return { units, counts: [columns, rows] }
}

/** Six-sided units, one corner up. */
export const hexagon: Bond = ({ columns, height }) => {
  const width = 1 / columns
  // Rows of regular hexagons stand width·√3/2 apart.
  const rows = snap(height / (width * 0.8660254037844386), 2)
  const pitch = height / rows
  const units = Array.from({ length: rows * columns }, (_, i) => {
    const row = Math.floor(i / columns)
    const x = ((i % columns) + 0.5 + (row % 2) / 2) * width
    const y = (row + 0.5) * pitch
    const [half, tall, short] = [width / 2, (pitch * 2) / 3, pitch / 3]
    return {
      outline: [
        x,
        y - tall,
        x + half,
        y - short,
        x + half,
        y + short,
        x,
        y + tall,
        x - half,
        y + short,
        x - half,
        y - short,
      ],
      turns: 0,
    }
  })
  return { units, counts: [columns, rows] }
}
