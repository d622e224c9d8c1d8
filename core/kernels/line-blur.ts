import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { filterAlongPath, stepsFor } from './path-filter'
import type { Rows } from './rows'
import type { Simd } from './simd'
import { simd } from './simd'
import type { Combine } from './warp'
import { COMBINE, directionOf } from './warp'

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
 * widths, angles in turns. Source: own derivation. Twins: core/kernels/assembly/move.ts.
 */
export function blurAlongLines(inputs: Inputs, lines: Lines, out: Field, rows: Rows): void {
  const twin = inputs.source.stride === 0 ? null : simd()
  if (twin) return twin.scratch(() => bySimd(twin, inputs, lines, out, rows))
  const { source, lengthBy, angleBy } = inputs
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
