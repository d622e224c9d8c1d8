import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import { bounded } from '../field/limits'
import { filterAlongPath, stepsFor } from './path-filter'
import type { Rows } from './rows'
import type { Simd } from './simd'
import { pieceRows, simd } from './simd'
import type { Combine } from './warp'
import { COMBINE, directionOf } from './warp'

const f = Math.fround

interface Inputs {
  readonly source: Field
  readonly lengthBy: Field | null
  readonly angleBy: Field | null
}

interface Lines {
  readonly length: number
  readonly angle: number
  readonly from: 'middle' | 'end'
  readonly combine: Combine
}

const clampUnit = (v: number): number => (v < 0 ? 0 : v > 1 ? 1 : v)

/**
 * A field filtered along a line from each texel, with the length and angle that other fields give it. Units: length in tile
 * widths, angles in turns. Source: own derivation. Where the line is the same everywhere, all rows are shifted by it in float32
 * steps. Twins: core/kernels/assembly/walk.ts.
 */
export function blurAlongLines(inputs: Inputs, lines: Lines, out: Field, rows: Rows): void {
  const { source, lengthBy, angleBy } = inputs
  if (!lengthBy && !angleBy) return blurAlongLine(source, lines, out, rows)
  const twin = inputs.source.stride === 0 ? null : simd()
  if (twin) return twin.scratch(() => bySimd(twin, inputs, lines, out, rows))
  const texels = lines.length * source.width
  const steps = stepsFor(texels)
  const ratio = (x: number, y: number): number =>
    lengthBy ? clampUnit(lengthBy.planes[0]![rowStart(lengthBy, y) + x]!) : 1
  const fixed = directionOf(lines.angle)
  filterAlongPath(source, out, rows, steps, lines.combine, (x, y, walker) => {
    const [u, v] = angleBy ? directionOf(lines.angle + angleBy.planes[0]![rowStart(angleBy, y) + x]!) : fixed
    const step = (texels * ratio(x, y)) / steps
    const back = lines.from === 'middle' ? steps / 2 : 0
    walker.dx = -u * step
    walker.dy = -v * step
    walker.x = x - walker.dx * back
    walker.y = y - walker.dy * back
  })
}

function bySimd(twin: Simd, { source, lengthBy, angleBy }: Inputs, lines: Lines, out: Field, rows: Rows): void {
  const { assembly } = twin
  const { width, height, rows: count } = source
  const first = count === height ? 0 : source.top
  const texels = lines.length * width
  const steps = stepsFor(texels)
  const back = lines.from === 'middle' ? steps / 2 : 0
  const combine = COMBINE.indexOf(lines.combine)
  const [cos, down] = directionOf(lines.angle)
  const planes = source.planes.map((plane) => twin.allRows(source, plane))
  const [px, py, dx, dy] = [0, 0, 0, 0].map(() => twin.take(2 * width)) as [number, number, number, number]
  const [angleRoom, lengthRoom, result] = [0, 0, 0].map(() => twin.take(width)) as [number, number, number]
  const row = (field: Field | null, y: number, room: number): number =>
    field ? twin.rowsOf(field, field.planes[0]!, y, y + 1, room) : 0
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [angles, lengths] = [row(angleBy, y, angleRoom), row(lengthBy, y, lengthRoom)]
    assembly.linesFrom(px, py, dx, dy, width, y, lines.angle, cos, -down, angles, lengths, texels, steps, back)
    planes.forEach((plane, p) => {
      assembly.walkRow(plane, width, height, first, count, px, py, dx, dy, steps, combine, result)
      twin.copyOut(result, out, out.planes[p]!, y, y + 1)
    })
  }
}

/** One place on a line: whole texels away, and the parts of the way to the next ones. */
interface Shift {
  readonly x: number
  readonly y: number
  readonly tx: number
  readonly ty: number
}

function shiftsOf({ length, angle, from }: Lines, width: number): Shift[] {
  const texels = length * width
  const steps = stepsFor(texels)
  const [u, v] = directionOf(angle)
  const back = from === 'middle' ? steps / 2 : 0
  return Array.from({ length: steps + 1 }, (_, k) => {
    const way = ((back - k) * texels) / steps
    const [x, y] = [Math.floor(u * way), Math.floor(v * way)]
    return { x, y, tx: f(u * way - x), ty: f(v * way - y) }
  })
}

/** The same line from every texel. */
function blurAlongLine(source: Field, lines: Lines, out: Field, rows: Rows): void {
  const { width } = source
  const shifts = shiftsOf(lines, width)
  const twin = width % 4 === 0 ? simd() : null
  const { combine } = lines
  if (twin) return twin.scratch(() => shiftsBySimd(twin, source, shifts, combine, out, rows))
  const kept = new Float32Array(width)
  out.planes.forEach((target, p) => {
    const plane = source.planes[p]!
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      shifts.forEach(({ x: dx, y: dy, tx, ty }, k) => {
        const [upper, lower] = [rowStart(source, y + dy), rowStart(source, y + dy + 1)]
        for (let x = 0; x < width; x++) {
          const left = floorMod(x + dx, width)
          const right = left + 1 === width ? 0 : left + 1
          const [a, b] = [plane[upper + left]!, plane[lower + left]!]
          const top = f(a + f(tx * f(plane[upper + right]! - a)))
          const low = f(b + f(tx * f(plane[lower + right]! - b)))
          const v = f(top + f(ty * f(low - top)))
          const known = kept[x]!
          if (k === 0) kept[x] = v
          else if (combine === 'average') kept[x] = known + v
          else if (combine === 'minimum' ? v < known : v > known) kept[x] = v
        }
      })
      const start = rowStart(out, y)
      const count = combine === 'average' ? shifts.length : 1
      for (let x = 0; x < width; x++) target[start + x] = bounded(f(kept[x]! / count))
    }
  })
}

function shiftsBySimd(
  twin: Simd,
  source: Field,
  shifts: readonly Shift[],
  combine: Combine,
  out: Field,
  rows: Rows,
): void {
  const { width } = source
  const above = Math.min(...shifts.map(({ y }) => y))
  const below = Math.max(...shifts.map(({ y }) => y)) + 1
  const pad = Math.ceil((Math.max(...shifts.map(({ x }) => Math.abs(x))) + 1) / 4) * 4
  const stride = width + 2 * pad
  // More rows for a long line, so that those around them are not copied again and again.
  const piece = Math.max(pieceRows(width), below - above)
  const first = twin.take((piece + below - above) * stride) + 4 * pad
  const room = twin.take(width)
  const number = COMBINE.indexOf(combine)
  out.planes.forEach((target, p) => {
    for (let top = rows.from; top < rows.to; top += piece) {
      const end = Math.min(rows.to, top + piece)
      twin.copyPadded(source, source.planes[p]!, top + above, end + below, first, stride, pad)
      for (let y = top; y < end; y++) {
        rows.check()
        const here = first + 4 * (y - top - above) * stride
        const result = twin.target(out, target, y, y + 1, room)
        shifts.forEach(({ x, y: dy, tx, ty }, k) => {
          const upper = here + 4 * (dy * stride + x)
          twin.assembly.shiftedRow(upper, upper + 4 * stride, tx, ty, result, width, number, k === 0)
        })
        twin.assembly.dividedRow(result, width, combine === 'average' ? shifts.length : 1)
        twin.written(result, out, target, y, y + 1, room)
      }
    }
  })
}
