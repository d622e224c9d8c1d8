import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import type { Walker } from './path-filter'
import { downhill, filterAlongPath, stepsFor } from './path-filter'
import type { Rows } from './rows'
import type { Simd } from './simd'
import { simd } from './simd'
import { slopeReader } from './slopes'
import type { Combine, OffsetAt } from './warp'
import { COMBINE, directionOf, warpField } from './warp'

/** What gives the direction of a warp. */
export const PUSHES = ['angle', 'slope', 'vector'] as const

interface Inputs {
  readonly source: Field
  readonly driver: Field | null
  readonly vector: Field | null
  readonly strengthBy: Field | null
  readonly angleBy: Field | null
}

interface WarpShape {
  readonly along: (typeof PUSHES)[number]
  readonly strength: number
  readonly angle: number
  readonly steepness: number
  readonly directions: number
  readonly combine: Combine
}

const unit = (v: number): number => (v < -1 ? -1 : v > 1 ? 1 : v)
const valueAt = (field: Field | null, x: number, y: number, without: number): number =>
  field ? field.planes[0]![rowStart(field, y) + x]! : without

/**
 * Moves a field along an angle, downhill of a driver or by vectors, with the strength and angle that other fields give it.
 * Units: strength in tile widths, angles in turns, steepness in greys a tile. Twins: core/kernels/assembly/warp.ts, walk.ts.
 */
export function warpFields(inputs: Inputs, shape: WarpShape, out: Field, rows: Rows): void {
  const twin = inputs.source.stride === 0 ? null : simd()
  if (twin) return twin.scratch(() => bySimd(twin, inputs, shape, out, rows))
  const { source, driver, vector, strengthBy, angleBy } = inputs
  const { width } = source
  const turns = turnsOf(shape)
  const fixed = turns.map(directionOf)
  const slopeAt = shape.along === 'slope' && driver ? slopeReader(driver, 'central') : null
  const slope = new Float64Array(2)
  // [u right, v up] of the push before it is turned by the angle.
  const raw: OffsetAt = (x, y, _, v) => {
    v[0] = 0
    v[1] = 0
    if (shape.along === 'angle') v[0] = unit(valueAt(driver, x, y, 1))
    else if (shape.along === 'vector' && vector) {
      const i = rowStart(vector, y) + x
      v[0] = vector.planes[0]![i]!
      v[1] = -vector.planes[1]![i]!
    } else if (slopeAt) {
      slopeAt(x, y, slope)
      v[0] = (-slope[0]! * width) / shape.steepness
      v[1] = (slope[1]! * width) / shape.steepness
    }
    const length = Math.sqrt(v[0]! * v[0]! + v[1]! * v[1]!)
    if (length > 1) {
      v[0] = v[0]! / length
      v[1] = v[1]! / length
    }
  }
  warpField(source, out, rows, shape.directions, shape.combine, (x, y, d, offset) => {
    raw(x, y, d, offset)
    const [c, down] = angleBy ? directionOf(turns[d]! + valueAt(angleBy, x, y, 0)) : fixed[d]!
    const s = -down
    const ratio = Math.max(0, unit(valueAt(strengthBy, x, y, 1))) * shape.strength
    const u = offset[0]!
    const v = offset[1]!
    offset[0] = (u * c - v * s) * ratio
    offset[1] = -(u * s + v * c) * ratio
  })
}

const turnsOf = ({ angle, directions }: WarpShape): number[] =>
  Array.from({ length: directions }, (_, k) => angle + k / directions)

function bySimd(twin: Simd, inputs: Inputs, shape: WarpShape, out: Field, rows: Rows): void {
  const { source, driver, vector, strengthBy, angleBy } = inputs
  const { assembly } = twin
  const { width, height, rows: count } = source
  const first = count === height ? 0 : source.top
  const combine = COMBINE.indexOf(shape.combine)
  const weight = Math.fround(1 / shape.directions)
  const turns = turnsOf(shape).map((angle) => ({ angle, direction: directionOf(angle) }))
  const planes = source.planes.map((plane) => twin.allRows(source, plane))
  const [u, v, px, py] = [0, 0, 0, 0].map(() => twin.take(2 * width)) as [number, number, number, number]
  const read = twin.take(width)
  const kept = out.planes.map(() => twin.take(width))
  const row = (field: Field | null, plane: number, y: number, room: number): number =>
    field ? twin.rowsOf(field, field.planes[plane]!, y, y + 1, room) : 0
  const targets = out.planes.map(() => 0)
  const rooms = Array.from({ length: 5 }, () => twin.take(width))
  const push = pusher(twin, width, shape, { driver, vector }, [u, v], row, rooms.slice(0, 3))
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    push(y)
    const [angles, strengths] = [row(angleBy, 0, y, rooms[3]!), row(strengthBy, 0, y, rooms[4]!)]
    turns.forEach(({ angle, direction: [cos, down] }, d) => {
      assembly.pushedFrom(u, v, px, py, width, y, angle, cos, -down, angles, strengths, shape.strength)
      planes.forEach((plane, p) => {
        if (d === 0) targets[p] = twin.target(out, out.planes[p]!, y, y + 1, kept[p]!)
        const at = targets[p]!
        assembly.readRow(plane, width, height, first, count, px, py, turns.length === 1 ? at : read)
        if (turns.length > 1) assembly.combineRow(read, at, width, combine, d === 0, weight)
      })
    })
    out.planes.forEach((plane, p) => {
      assembly.boundRow(targets[p]!, width)
      twin.written(targets[p]!, out, plane, y, y + 1, kept[p]!)
    })
  }
}

/** What writes the push of a row before it is turned: to the right and up. */
function pusher(
  twin: Simd,
  width: number,
  { along, steepness }: WarpShape,
  { driver, vector }: Pick<Inputs, 'driver' | 'vector'>,
  [u, v]: readonly [number, number],
  row: (field: Field | null, plane: number, y: number, room: number) => number,
  rooms: readonly number[],
): (y: number) => void {
  const { assembly } = twin
  if (along === 'angle') return (y) => assembly.pushByAngle(row(driver, 0, y, rooms[0]!), u, v, width)
  if (along === 'vector' && vector)
    return (y) => assembly.pushByVector(row(vector, 0, y, rooms[0]!), row(vector, 1, y, rooms[1]!), u, v, width)
  if (along === 'slope' && driver)
    return (y) => {
      const [above, here, below] = [-1, 0, 1].map((dy) => row(driver, 0, y + dy, rooms[dy + 1]!))
      assembly.pushBySlope(above!, here!, below!, u, v, width, steepness)
    }
  // Nothing to go by: no push.
  for (const at of [u, v]) twin.floats(at, 2 * width).fill(0)
  return () => {}
}

/** Many small steps downhill of a driver; the strength is how far they go in all. */
export function warpAlongSlopes(
  { source, driver, strengthBy }: Pick<Inputs, 'source' | 'driver' | 'strengthBy'>,
  { strength, combine }: Pick<WarpShape, 'strength' | 'combine'>,
  out: Field,
  rows: Rows,
): void {
  const { width, height } = source
  const texels = strength * width
  const steps = stepsFor(Math.abs(texels))
  const stepAt = (x: number, y: number): number => (texels * Math.max(0, unit(valueAt(strengthBy, x, y, 1)))) / steps
  const twin = !driver || source.stride === 0 || driver.stride === 0 ? null : simd()
  if (!twin) {
    // The part of the strength that belongs to where the path began.
    let step = 0
    const begin = (x: number, y: number, walker: Walker): void => {
      step = driver ? stepAt(x, y) : 0
      Object.assign(walker, { x, y, dx: 0, dy: 0 })
    }
    const turn = driver ? downhill(slopeReader(driver, 'central'), width, () => step) : undefined
    return filterAlongPath(source, out, rows, driver ? steps : 0, combine, begin, turn)
  }
  twin.scratch(() => {
    const topOf = (field: Field): number => (field.rows === height ? 0 : field.top)
    const planes = source.planes.map((plane) => twin.allRows(source, plane))
    const hills = twin.allRows(driver!, driver!.planes[0]!)
    const lengths = twin.take(2 * width)
    const result = twin.take(width)
    const each = new Float64Array(twin.shared.buffer, lengths, width)
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      for (let x = 0; x < width; x++) each[x] = stepAt(x, y)
      planes.forEach((plane, p) => {
        twin.assembly.walkDownhill(
          plane,
          width,
          height,
          topOf(source),
          source.rows,
          hills,
          topOf(driver!),
          driver!.rows,
          y,
          lengths,
          steps,
          COMBINE.indexOf(combine),
          result,
        )
        twin.copyOut(result, out, out.planes[p]!, y, y + 1)
      })
    }
  })
}
