import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import { hashInto, unitFloat } from '../random'
import { smoothstep } from './point'
import type { Rows } from './rows'
import type { Simd } from './simd'
import { simd } from './simd'

export const OVERLAPS = ['maximum', 'sum'] as const

export interface SpotsShape {
  /** Places across and down; each holds one spot at most. */
  readonly cells: readonly [number, number]
  /** The share of places that hold one. */
  readonly density: number
  /** Diameters, in cells. */
  readonly size: readonly [number, number]
  /** How much of the radius is edge. */
  readonly softness: number
  readonly overlap: (typeof OVERLAPS)[number]
  /** How much fainter some are. */
  readonly vary: number
}

export interface SpotsOutput {
  readonly grey?: Field
  readonly value?: Field
  readonly id?: Field
}

/** Most cells a spot may reach beyond its own. */
const RING = 3

/** A spot in cell widths across and down, how it fades, and how strong it is. */
interface Spot {
  readonly x: number
  readonly y: number
  readonly radius: number
  readonly value: number
  readonly id: number
  /** Half way down its edge, and the edge's width. */
  readonly middle: number
  readonly edge: number
  readonly opacity: number
}

/** Numbers of a spot as the twin reads it. */
const NUMBERS = 8

/**
 * Soft discs at random places, one at most in each cell of a lattice: how strong they are, and of the strongest its value and
 * number. Source: own derivation. Twin: core/kernels/assembly/spots.ts.
 */
export function scatterSpots(
  shape: SpotsShape,
  stream: number,
  tileHeight: number,
  width: number,
  out: SpotsOutput,
  rows: Rows,
): void {
  const some = out.grey ?? out.value ?? out.id
  if (!some) return
  const [columns, lines] = shape.cells
  // Cells need not be square: distances are measured in cell widths.
  const squash = (tileHeight / lines) * columns
  const texel = columns / width
  const large = Math.max(...shape.size)
  const reach = Math.min(RING, Math.ceil(large / 2))
  const vertical = Math.min(RING, Math.ceil(large / 2 / squash))
  const twin = simd()
  const lattice = { stream, reach, vertical, squash, texel }
  if (twin) return twin.scratch(() => bySimd(twin, shape, lattice, some, out, rows))
  const scattered = new Scattered(shape, stream, squash, texel, reach)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const start = rowStart(some, y)
    const v = ((floorMod(y, some.height) + 0.5) / some.height) * lines
    let column = NaN
    let around: Spot[] = []
    for (let x = 0; x < width; x++) {
      const u = ((x + 0.5) / width) * columns
      if (Math.floor(u) !== column) {
        column = Math.floor(u)
        around = []
        for (let dy = -vertical; dy <= vertical; dy++)
          for (let dx = -reach; dx <= reach; dx++) {
            const spot = scattered.line(Math.floor(v) + dy)[column + dx + reach]
            if (spot) around.push(spot)
          }
      }
      let sum = 0
      let max = 0
      let top: Spot | null = null
      for (const spot of around) {
        const dx = u - spot.x
        const dy = v * squash - spot.y
        const away = Math.sqrt(dx * dx + dy * dy)
        if (away > spot.radius + texel) continue
        const { middle, edge } = spot
        const opacity = spot.opacity * (1 - smoothstep(middle - edge / 2, middle + edge / 2, away))
        if (opacity === 0) continue
        const level = opacity * (1 - shape.vary * spot.value)
        sum += level
        if (level > max) {
          max = level
          top = spot
        }
      }
      if (out.grey) out.grey.planes[0]![start + x] = shape.overlap === 'sum' ? sum : max
      if (out.value) out.value.planes[0]![start + x] = top ? top.value : 0
      if (out.id) out.id.ids![start + x] = top ? top.id : 0
    }
  }
}

/** Rows of cells, made once while they are near; each goes on `reach` cells beyond both ends. */
class Scattered {
  private readonly made = new Map<number, (Spot | null)[]>()
  private readonly small: number
  private readonly large: number

  constructor(
    private readonly shape: SpotsShape,
    private readonly stream: number,
    private readonly squash: number,
    private readonly texel: number,
    private readonly reach: number,
  ) {
    this.small = Math.min(...shape.size)
    this.large = Math.max(...shape.size)
  }

  line(cy: number): (Spot | null)[] {
    let list = this.made.get(cy)
    if (!list) {
      if (this.made.size > 2 * RING + 8) this.made.clear()
      const { reach } = this
      list = Array.from({ length: this.shape.cells[0] + 2 * reach }, (_, i) => this.spotIn(i - reach, cy))
      this.made.set(cy, list)
    }
    return list
  }

  private spotIn(cx: number, cy: number): Spot | null {
    const { cells, density, softness } = this.shape
    const [columns, lines] = cells
    const id = floorMod(cy, lines) * columns + floorMod(cx, columns)
    const own = hashInto(this.stream, id)
    const random = (what: number): number => unitFloat(hashInto(own, what))
    if (random(0) >= density) return null
    const radius = Math.min(RING, this.small + (this.large - this.small) * random(3)) / 2
    const edge = Math.max(radius * softness, this.texel)
    // Where the profile would not fit, a spot as wide as its edge covers the same amount, fainter.
    const half = radius * (1 - softness / 2)
    const middle = Math.max(half, edge / 2)
    const faint = half / middle
    const place = { x: cx + random(1), y: (cy + random(2)) * this.squash }
    return { ...place, radius, value: random(4), id: id + 1, middle, edge, opacity: faint * faint }
  }
}

interface Lattice {
  readonly stream: number
  readonly reach: number
  readonly vertical: number
  readonly squash: number
  readonly texel: number
}

function bySimd(twin: Simd, shape: SpotsShape, lattice: Lattice, some: Field, out: SpotsOutput, rows: Rows): void {
  const { stream, reach, vertical, squash, texel } = lattice
  const { width, height } = some
  const [columns, lines] = shape.cells
  const length = columns + 2 * reach
  const count = 2 * vertical + 1
  const slots = Array.from({ length: count }, () => twin.take(2 * NUMBERS * length))
  const table = twin.take(count)
  const room = twin.take(NUMBERS * 2 * count * (2 * reach + 1))
  const planes = [out.grey?.planes[0], out.value?.planes[0], out.id?.ids]
  const made = planes.map((plane) => ({ plane, at: plane ? twin.take(width) : 0 }))
  const [grey, value, id] = made.map(({ at }) => at) as [number, number, number]
  /** Lattice rows that lie in the slots, by their numbers modulo how many there are. */
  const held = slots.map(() => NaN)
  const bring = (cy: number): number => {
    const slot = floorMod(cy, count)
    const at = slots[slot]!
    if (held[slot] === cy) return at
    held[slot] = cy
    const { density, softness } = shape
    const [small, large] = [Math.min(...shape.size), Math.max(...shape.size)]
    twin.assembly.spotsLine(at, stream, cy, columns, lines, reach, squash, density, small, large, RING, softness, texel)
    return at
  }
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const v = ((floorMod(y, height) + 0.5) / height) * lines
    twin.ints(table, count).set(slots.map((_, k) => bring(Math.floor(v) + k - vertical)))
    const isSum = shape.overlap === 'sum'
    twin.assembly.spotsRow(
      width,
      columns,
      v * squash,
      table,
      count,
      reach,
      room,
      texel,
      shape.vary,
      isSum,
      grey,
      value,
      id,
    )
    const start = rowStart(some, y)
    for (const { plane, at } of made)
      if (plane instanceof Float32Array) plane.set(twin.floats(at, width), start)
      else plane?.set(twin.ints(at, width), start)
  }
}
