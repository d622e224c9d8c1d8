import { hashInto, unitFloat } from '../../random'
import { cosTurns, sinTurns } from '../../elementary'
import type { Polygon } from '../polygon'
import { centroid, inradius, insetPolygon, placePolygon, polygonDistance } from '../polygon'
import type { BondName } from './bonds'
import { BONDS } from './bonds'
import type { BondRequest, Laid } from './bond'

/** A bond and how its units differ from their plan. Lengths in tile widths, angles in turns. */
export interface UnitShape extends Omit<BondRequest, 'random'> {
  readonly bond: BondName
  /** Width of the gap between two units. */
  readonly gap: number
  /** Radius of corners; as much of it as fits. */
  readonly rounding: number
  readonly positionJitter: number
  readonly rotationJitter: number
  /** By how much a unit may be smaller, as a share of itself. */
  readonly sizeJitter: number
}

/** A unit as laid: the distance to its edge is that to `core` plus `round`. */
export interface Unit {
  readonly core: Float64Array
  readonly round: number
  readonly centre: readonly [number, number]
  /** Direction of its length, [cos, sin] of its angle counter-clockwise as seen. */
  readonly along: readonly [number, number]
  /** The middle and half the sides of its box in its own frame. */
  readonly box: readonly [number, number, number, number]
  /** Left, top, right, bottom of what it covers. */
  readonly bounds: readonly [number, number, number, number]
  /** A random value, 0–1. */
  readonly value: number
  /** How its top lies: a random step, −½ to ½, and a random direction to lean in, along and across. */
  readonly step: number
  readonly lean: readonly [number, number]
}

const random = (stream: number, what: number): number => unitFloat(hashInto(stream, what))

/** Lays the units; those that the gap leaves nothing of are null, so that indices stay. */
export function layUnits(shape: UnitShape, stream: number): (Unit | null)[] {
  const { units } = BONDS[shape.bond]({ ...shape, random: (a, b) => random(hashInto(stream, 7919 + a), b) })
  return units.map((laid, index) => layUnit(laid, shape, hashInto(stream, index)))
}

function layUnit({ outline, turns }: Laid, shape: UnitShape, stream: number): Unit | null {
  const middle = centroid(outline)
  const spin = shape.rotationJitter * (2 * random(stream, 1) - 1)
  const move = [0, 1].map((i) => shape.positionJitter * (2 * random(stream, 2 + i) - 1)) as [number, number]
  const placed = placePolygon(outline, middle, spin, 1 - shape.sizeJitter * random(stream, 4), move)
  const bare = insetPolygon(placed, shape.gap / 2)
  if (bare.length === 0) return null
  const round = roundingOf(bare, shape.rounding)
  const core = round > 0 ? insetPolygon(bare, round) : bare
  if (core.length === 0) return null
  const centre = centroid(bare)
  const angle = turns + spin
  const along = [cosTurns(angle), sinTurns(angle)] as const
  return {
    core: Float64Array.from(core),
    round: core === bare ? 0 : round,
    centre,
    along,
    box: boxIn(bare, centre, along),
    bounds: boundsOf(bare),
    value: random(stream, 5),
    step: random(stream, 6) - 0.5,
    lean: [cosTurns(random(stream, 7)), sinTurns(random(stream, 7))],
  }
}

/** As much of a rounding as fits; how much fits is searched for only where it is not clear. */
function roundingOf(bare: Polygon, rounding: number): number {
  const fits = insetPolygon(bare, (rounding / FITS) * 1.01).length > 0
  return fits ? rounding : Math.min(rounding, inradius(bare) * FITS)
}

/** The share of its inradius by which a unit may be rounded, so that something of it is left. */
const FITS = 0.98

function boundsOf(corners: Polygon): [number, number, number, number] {
  const xs = corners.filter((_, i) => i % 2 === 0)
  const ys = corners.filter((_, i) => i % 2 === 1)
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)]
}

/** A place in a unit's own frame: along its length, and across it (down where the length runs right). */
export function inFrame(unit: Pick<Unit, 'centre' | 'along'>, x: number, y: number): [number, number] {
  const [cos, sin] = unit.along
  const dx = x - unit.centre[0]
  const dy = y - unit.centre[1]
  return [dx * cos - dy * sin, dx * sin + dy * cos]
}

function boxIn(
  corners: Polygon,
  centre: readonly [number, number],
  along: readonly [number, number],
): [number, number, number, number] {
  const framed: number[] = []
  for (let i = 0; i < corners.length; i += 2) framed.push(...inFrame({ centre, along }, corners[i]!, corners[i + 1]!))
  const [left, top, right, bottom] = boundsOf(framed)
  return [(left + right) / 2, (top + bottom) / 2, (right - left) / 2, (bottom - top) / 2]
}

/** Signed distance to a unit's edge, positive inside, exact on both sides. */
export const unitDistance = (unit: Unit, x: number, y: number): number => polygonDistance(unit.core, x, y) + unit.round

/** A copy of a unit moved by whole tiles. */
export interface Copy {
  readonly unit: Unit
  readonly index: number
  readonly dx: number
  readonly dy: number
}

/** Buckets of the tile, row by row, that know every copy whose edge may be nearest to, or that may hold, a place in them. */
export interface Buckets {
  readonly lists: readonly (readonly Copy[])[]
  readonly across: number
  readonly down: number
  readonly width: number
  readonly height: number
}

/** The bucket that a place lies in, by its number across or down. */
export const bucketOf = (at: number, size: number, count: number): number => Math.min(count - 1, Math.floor(at / size))

/** Puts units into buckets; null where there is no unit. */
export function indexUnits(units: readonly (Unit | null)[], height: number): Buckets | null {
  const present = units.filter((unit) => unit !== null).length
  if (present === 0) return null
  const across = Math.max(1, Math.min(512, Math.ceil(Math.sqrt((6 * present) / height))))
  const down = Math.max(1, Math.ceil(across * height))
  const [bw, bh] = [1 / across, height / down]
  const half = Math.sqrt(bw * bw + bh * bh) / 2
  for (let margin = half; ;) {
    const lists = spread(units, height, across, down, margin)
    const wanted = lists.reduce((most, list, i) => Math.max(most, reachOf(list, i, across, bw, bh) + half), 0)
    if (margin > 2 || wanted <= margin) return { lists, across, down, width: bw, height: bh }
    // No bucket needs more than this; where one knows no unit yet, that is not known either.
    margin = wanted === Infinity ? margin * 2 : wanted
  }
}

/** Distance from a bucket's middle to the nearest unit it knows. */
function reachOf(list: readonly Copy[], bucket: number, across: number, bw: number, bh: number): number {
  const x = ((bucket % across) + 0.5) * bw
  const y = (Math.floor(bucket / across) + 0.5) * bh
  let min = Infinity
  for (const { unit, dx, dy } of list) min = Math.min(min, Math.max(0, -unitDistance(unit, x - dx, y - dy)))
  return min
}

/** Puts every copy into all buckets that come within `margin` of its bounds. */
function spread(
  units: readonly (Unit | null)[],
  height: number,
  across: number,
  down: number,
  margin: number,
): Copy[][] {
  const buckets: Copy[][] = Array.from({ length: across * down }, () => [])
  const [bw, bh] = [1 / across, height / down]
  units.forEach((unit, index) => {
    if (!unit) return
    const [left, top, right, bottom] = unit.bounds
    const [x0, x1] = [Math.floor((left - margin) / bw), Math.floor((right + margin) / bw)]
    const [y0, y1] = [Math.floor((top - margin) / bh), Math.floor((bottom + margin) / bh)]
    for (let by = y0; by <= y1; by++)
      for (let bx = x0; bx <= x1; bx++) {
        const tx = Math.floor(bx / across)
        const ty = Math.floor(by / down)
        buckets[(by - ty * down) * across + bx - tx * across]!.push({ unit, index, dx: -tx, dy: -ty * height })
      }
  })
  return buckets
}
