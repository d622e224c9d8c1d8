import type { Field } from '../../field/field'
import { floorMod, rowStart } from '../../field/field'
import { coverage } from '../point'
import type { Rows } from '../rows'
import type { Simd } from '../simd'
import { simd } from '../simd'
import type { Buckets, Copy, Unit } from './laid-units'
import { bucketOf, indexUnits, unitDistance } from './laid-units'

export interface BondOutputs {
  readonly mask?: Field
  readonly distance?: Field
  readonly value?: Field
  readonly level?: Field
  readonly id?: Field
  readonly local?: Field
  readonly direction?: Field
}

/** How laid units become fields: the edge's width in tile widths, and how uneven their tops are. */
export interface BondLook {
  readonly softness: number
  readonly heightJitter: number
  readonly tilt: number
  /** Texels across the tile, and the tile's height in its widths. */
  readonly width: number
  readonly height: number
}

/** Units, and the same as the twin reads them; null where there are none. */
export interface LaidUnits {
  readonly units: readonly (Unit | null)[]
  readonly packed: PackedUnits | null
}

/**
 * Units and buckets as plain numbers. `units` holds 19 numbers each (UNIT): where its corners begin among `corners`, how many
 * there are, and what Unit tells, in its order.
 */
export interface PackedUnits {
  readonly corners: Float64Array
  readonly units: Float64Array
  /** By copy: its unit's place in `units`, and its number. */
  readonly copies: Int32Array
  readonly moves: Float64Array
  /** By bucket: its first copy; at the end how many there are. */
  readonly starts: Int32Array
  readonly across: number
  readonly down: number
  readonly bucketWidth: number
  readonly bucketHeight: number
}

/** Numbers of a unit. */
const UNIT = 19

export function packUnits(units: readonly (Unit | null)[], height: number): PackedUnits | null {
  const buckets = indexUnits(units, height)
  if (!buckets) return null
  const present = units.filter((unit) => unit !== null)
  const places = new Map(present.map((unit, i) => [unit, i]))
  const corners = new Float64Array(present.reduce((sum, { core }) => sum + core.length, 0))
  const numbers = new Float64Array(UNIT * present.length)
  let corner = 0
  present.forEach(({ core, round, centre, along, box, bounds, value, step, lean }, i) => {
    corners.set(core, corner)
    const own = [corner, core.length / 2, round, ...centre, ...along, ...box, ...bounds, value, step, ...lean]
    numbers.set(own, UNIT * i)
    corner += core.length
  })
  const { lists, across, down, width, height: bucketHeight } = buckets
  const count = lists.reduce((sum, list) => sum + list.length, 0)
  const [copies, moves] = [new Int32Array(2 * count), new Float64Array(2 * count)]
  const starts = new Int32Array(lists.length + 1)
  let at = 0
  lists.forEach((list, bucket) => {
    for (const { unit, index, dx, dy } of list) {
      copies[at] = places.get(unit)!
      copies[at + 1] = index
      moves[at++] = dx
      moves[at++] = dy
    }
    starts[bucket + 1] = at / 2
  })
  return { corners, units: numbers, copies, moves, starts, across, down, bucketWidth: width, bucketHeight }
}

/** Writes what laid units come to. Units: lengths in tile widths. Twin: core/kernels/assembly/bond.ts. */
export function bondFields(laid: LaidUnits, look: BondLook, out: BondOutputs, rows: Rows): void {
  const some = Object.values(out as Record<string, Field | undefined>).find((field) => field !== undefined)
  if (!some) return
  const { width, height } = look
  const edge = Math.max(look.softness, 1 / width)
  const { packed } = laid
  const twin = packed ? simd() : null
  if (twin) return twin.scratch(() => bySimd(twin, packed!, look, edge, some, out, rows))
  const buckets = packed && indexUnits(laid.units, height)
  const find = buckets && nearestUnit(buckets)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const start = rowStart(some, y)
    const v = (floorMod(y, some.height) + 0.5) / width
    for (let x = 0; x < width; x++) {
      const i = start + x
      const u = (x + 0.5) / width
      const distance = find ? find(u, v) : -1
      if (out.mask) out.mask.planes[0]![i] = coverage(distance, edge)
      if (out.distance) out.distance.planes[0]![i] = distance + 0
      if (find) writeUnit(find.copy, u, v, i, out, look)
      else writeNothing(i, out)
    }
  }
}

function bySimd(
  twin: Simd,
  packed: PackedUnits,
  look: BondLook,
  edge: number,
  some: Field,
  out: BondOutputs,
  rows: Rows,
): void {
  const { starts, across, down, bucketWidth, bucketHeight } = packed
  const { width, heightJitter, tilt } = look
  const startsAt = twin.take(starts.length)
  twin.ints(startsAt, starts.length).set(starts)
  const copiesAt = layOut(twin, packed)
  const planes = [
    out.mask?.planes[0],
    out.distance?.planes[0],
    out.value?.planes[0],
    out.level?.planes[0],
    out.id?.ids,
    ...(out.local?.planes ?? [undefined, undefined]),
    ...(out.direction?.planes ?? [undefined, undefined]),
  ]
  const made = planes.map((plane) => ({ plane, at: plane ? twin.take(width) : 0 }))
  const room = twin.take(3 * width)
  const [mask, distance, value, level, id, localX, localY, directionX, directionY] = made.map(({ at }) => at) as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ]
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const v = (floorMod(y, some.height) + 0.5) / width
    twin.assembly.bondRow(
      width,
      v,
      startsAt,
      copiesAt,
      across,
      bucketWidth,
      bucketOf(v, bucketHeight, down),
      edge,
      heightJitter,
      tilt,
      mask,
      distance,
      value,
      level,
      id,
      localX,
      localY,
      directionX,
      directionY,
      room,
    )
    const start = rowStart(some, y)
    for (const { plane, at } of made)
      if (plane instanceof Float32Array) plane.set(twin.floats(at, width), start)
      else plane?.set(twin.ints(at, width), start)
  }
}

/** Writes corners, units and copies to scratch memory, one telling where the other is; gives where copies begin. */
function layOut(twin: Simd, { corners, units, copies, moves }: PackedUnits): number {
  const [cornersAt, unitsAt, copiesAt] = [
    twin.take(2 * corners.length),
    twin.take(2 * units.length),
    twin.take(3 * copies.length),
  ]
  new Float64Array(twin.shared.buffer, cornersAt, corners.length).set(corners)
  new Float64Array(twin.shared.buffer, unitsAt, units.length).set(units)
  const words = twin.ints(unitsAt, 2 * units.length)
  for (let i = 0; i < units.length; i += UNIT) {
    words[2 * i] = cornersAt + 8 * units[i]!
    words[2 * i + 1] = units[i + 1]!
  }
  const copyWords = twin.ints(copiesAt, 3 * copies.length)
  const copyNumbers = new Float64Array(twin.shared.buffer, copiesAt, (3 * copies.length) / 2)
  for (let i = 0; i < copies.length / 2; i++) {
    copyWords[6 * i] = unitsAt + 8 * UNIT * copies[2 * i]!
    copyWords[6 * i + 1] = copies[2 * i + 1]!
    copyNumbers[3 * i + 1] = moves[2 * i]!
    copyNumbers[3 * i + 2] = moves[2 * i + 1]!
  }
  return copiesAt
}

/** What a texel takes from the unit it belongs to. */
function writeUnit(
  { unit, index, dx, dy }: Copy,
  u: number,
  v: number,
  i: number,
  { value, level, id, local, direction }: BondOutputs,
  { heightJitter, tilt }: BondLook,
): void {
  if (id) id.ids![i] = index
  if (value) value.planes[0]![i] = unit.value
  if (direction) {
    direction.planes[0]![i] = unit.along[0] + 0
    direction.planes[1]![i] = -unit.along[1] + 0
  }
  if (!local && !level) return
  const [cos, sin] = unit.along
  const px = u - dx - unit.centre[0]
  const py = v - dy - unit.centre[1]
  // −1 to 1 over the unit's box, along its length and across.
  const s = (px * cos - py * sin - unit.box[0]) / unit.box[2]
  const t = (px * sin + py * cos - unit.box[1]) / unit.box[3]
  if (local) {
    local.planes[0]![i] = (s + 1) / 2
    local.planes[1]![i] = (t + 1) / 2
  }
  if (level)
    level.planes[0]![i] =
      0.5 + heightJitter * unit.step + (tilt / 2) * (unit.lean[0] * withinOne(s) + unit.lean[1] * withinOne(t))
}

const withinOne = (v: number): number => (v < -1 ? -1 : v > 1 ? 1 : v)

/** A gap so wide that no unit is left. */
function writeNothing(i: number, { value, level, id, local, direction }: BondOutputs): void {
  if (id) id.ids![i] = 0
  if (level) level.planes[0]![i] = 0.5
  for (const field of [value, local, direction]) field?.planes.forEach((plane) => (plane[i] = 0))
}

/**
 * Finds the unit a place is deepest in, or else nearest to: gives the distance, and the copy as `copy`. Of equals the
 * first of the bucket counts, wherever the search began: it begins with the unit found last, as neighbours share it.
 */
function nearestUnit(buckets: Buckets): ((x: number, y: number) => number) & { copy: Copy } {
  const { lists, across, down, width, height } = buckets
  const near = (x: number, y: number): readonly Copy[] =>
    lists[bucketOf(y, height, down) * across + bucketOf(x, width, across)]!
  const find = ((x: number, y: number): number => {
    const copies = near(x, y)
    let best = copies.indexOf(find.copy)
    let max = best < 0 ? -Infinity : unitDistance(find.copy.unit, x - find.copy.dx, y - find.copy.dy)
    for (let k = 0; k < copies.length; k++) {
      const { unit, dx, dy } = copies[k]!
      const px = x - dx
      const py = y - dy
      const [left, top, right, bottom] = unit.bounds
      const ox = px < left ? left - px : px > right ? px - right : 0
      const oy = py < top ? top - py : py > bottom ? py - bottom : 0
      // Outside its box a unit is at least so far away.
      if ((ox > 0 || oy > 0) && (max >= 0 || ox * ox + oy * oy > max * max)) continue
      const distance = unitDistance(unit, px, py)
      if (distance > max || (distance === max && k < best)) {
        max = distance
        best = k
      }
    }
    find.copy = copies[best]!
    return max
  }) as ((x: number, y: number) => number) & { copy: Copy }
  return find
}
