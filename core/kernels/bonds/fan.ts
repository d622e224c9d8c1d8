import { atan2Turns, cosTurns, sinTurns } from '../../elementary'
import type { Polygon } from '../polygon'
import { centroid, clipPolygon, doubleArea } from '../polygon'
import type { Bond, Laid } from './bond'
import { snap } from './bond'

/** More than this many fans across would be too many units to lay. */
const MOST = 24

/**
 * Fans of arcs about a base point, every other row moved by half a fan, each fan's sides being the outer arcs of the two
 * below it. With fans 2a wide in rows b apart the outer radius is √(a² + b²): then two outer arcs meet at each base. A
 * point at radius r and angle φ from upright is not covered by the fan below where φ < atan(b/a) + asin(r/2ρ), and not by
 * the one beside where r·sin φ ≤ a. Own derivation. Units are straight-sided: chords of their arcs.
 */
export const fan: Bond = ({ columns: wanted, aspect, rings, height }) => {
  // Where rows are as high as half a fan is wide, a fan is √2 · rings units wide.
  let columns = Math.min(snap(wanted / (rings * Math.SQRT2)), MOST)
  const rowsFor = (across: number): number => snap(height * 2 * across, 2)
  // Rows nearer than a/√3 would reach under the next but one; on low tiles more fans are laid across instead.
  while (columns < MOST && height / rowsFor(columns) < 0.58 / (2 * columns)) columns++
  const a = 1 / (2 * columns)
  const rows = rowsFor(columns)
  const b = height / rows
  const radius = Math.sqrt(a * a + b * b)
  const one = layFan(a, b, radius, rings, aspect)
  const units: Laid[] = []
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      const x = (2 * column + 1 + (row % 2)) * a
      const y = (row + 1) * b
      for (const { outline, turns } of one) units.push({ outline: outline.map((v, i) => v + (i % 2 ? y : x)), turns })
    }
  return { units, counts: [columns, rows] }
}

/** The units of one fan, base at the origin, opening towards row 0. */
function layFan(a: number, b: number, radius: number, rings: number, aspect: number): Laid[] {
  const depth = radius / rings
  const units: Laid[] = []
  for (let ring = 0; ring < rings; ring++) {
    const inner = ring * depth
    const outer = inner + depth
    const middle = (inner + outer) / 2
    const widest = openTo(middle, a, b, radius)
    const count = Math.max(1, Math.round((2 * widest * 6.283185307179586 * middle) / (depth * aspect)))
    for (let k = 0; k < count; k++) {
      const from = widest * ((2 * k) / count - 1)
      const to = widest * ((2 * (k + 1)) / count - 1)
      const outline = clipToFan(sector(inner, outer, from, to), a, b, radius)
      // Slivers would be nothing but gap.
      if (outline.length > 0 && Math.abs(doubleArea(outline)) > 0.2 * depth * depth)
        units.push({ outline, turns: -(from + to) / 2 })
    }
  }
  return units
}

/** How far to each side a ring is open, in turns from upright. */
function openTo(r: number, a: number, b: number, radius: number): number {
  const below = atan2Turns(b, a) + arcSine(r / (2 * radius))
  return r > a ? Math.min(below, arcSine(a / r)) : below
}

const arcSine = (v: number): number => atan2Turns(v, Math.sqrt(Math.max(0, 1 - v * v)))

function sector(inner: number, outer: number, from: number, to: number): Polygon {
  const at = (r: number, turns: number): [number, number] => [r * sinTurns(turns), -r * cosTurns(turns)]
  return inner === 0
    ? [0, 0, ...at(outer, from), ...at(outer, to)]
    : [...at(inner, from), ...at(outer, from), ...at(outer, to), ...at(inner, to)]
}

function clipToFan(outline: Polygon, a: number, b: number, radius: number): Polygon {
  let out = clipPolygon(clipPolygon(outline, 1, 0, -a), -1, 0, -a)
  for (const side of [-a, a]) {
    if (out.length === 0) return out
    const [x, y] = centroid(out)
    const away = Math.sqrt((x - side) * (x - side) + (y - b) * (y - b))
    const nx = (x - side) / away
    const ny = (y - b) / away
    // The tangent of the lower fan's outer arc that faces the unit.
    out = clipPolygon(out, nx, ny, nx * side + ny * b + radius)
  }
  return out
}
