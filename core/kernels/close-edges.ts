import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import type { Rows } from './rows'

/** Which borders are closed. */
export const CLOSED_EDGES = ['both', 'left and right', 'top and bottom'] as const
export type ClosedEdges = (typeof CLOSED_EDGES)[number]

export interface CloseOptions {
  readonly edges: ClosedEdges
  /** Texels beside each border in which the picture goes over into itself moved by half. */
  readonly band: number
  /** Half-width of the way over at a cut, in texels. */
  readonly soft: number
  /** True: along a cut where both differ least; false: a cross-fade over the whole band. */
  readonly cuts: boolean
}

/** Where the cuts lie: texels from the border, a value for each row (left, right) or column (top, bottom). */
export interface Cuts {
  readonly left: Float32Array
  readonly right: Float32Array
  readonly top: Float32Array
  readonly bottom: Float32Array
}

/**
 * Finds the cuts. Source: the minimum error boundary cut of A. Efros, W. Freeman, "Image Quilting for Texture Synthesis and Transfer",
 * SIGGRAPH 2001, section 2.1, here between a picture and itself moved by half, whose borders are closed.
 */
export function cutsOf(source: Field, options: CloseOptions, check: () => void): Cuts {
  const { width, height } = source
  const none = {
    left: new Float32Array(0),
    right: new Float32Array(0),
    top: new Float32Array(0),
    bottom: new Float32Array(0),
  }
  if (!options.cuts) return none
  const planes = source.planes.map((_, p) => p)
  const halfX = width >> 1
  const halfY = height >> 1
  const across = (at: (d: number) => number): Float32Array =>
    cheapestPath(height, Math.min(options.band, halfX), options.soft, check, (y, d) => {
      const x = at(d)
      return planes.reduce((sum, p) => sum + (valueAt(source, p, x, y) - valueAt(source, p, x + halfX, y)) ** 2, 0)
    })
  const isAcross = options.edges !== 'top and bottom'
  const left = isAcross ? across((d) => d) : none.left
  const right = isAcross ? across((d) => width - 1 - d) : none.right
  if (options.edges === 'left and right') return { ...none, left, right }
  const closed = planes.map((plane) => wholeAcross(source, plane, options, { ...none, left, right }, check))
  const down = (at: (d: number) => number): Float32Array =>
    cheapestPath(width, Math.min(options.band, halfY), options.soft, check, (x, d) => {
      const y = at(d)
      const other = (y + halfY) % height
      return closed.reduce((sum, plane) => sum + (plane[y * width + x]! - plane[other * width + x]!) ** 2, 0)
    })
  return { left, right, top: down((d) => d), bottom: down((d) => height - 1 - d) }
}

/** Fills rows of the result. */
export function closeEdges(source: Field, out: Field, rows: Rows, options: CloseOptions, cuts: Cuts): void {
  const { width, height } = source
  const isDown = options.edges !== 'left and right'
  const moved = new Float32Array(width)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const start = rowStart(out, y)
    // A band may go over the border.
    const line = floorMod(y, height)
    const isBesideBorder = isDown && Math.min(line, height - 1 - line) < reachOf(options)
    for (const [p, plane] of out.planes.entries()) {
      const row = plane.subarray(start, start + width)
      writeAcross(source, p, line, row, options, cuts)
      if (!isBesideBorder) continue
      writeAcross(source, p, (line + (height >> 1)) % height, moved, options, cuts)
      for (let x = 0; x < width; x++) {
        const weight = weightAt(line, height, options, cuts.top[x], cuts.bottom[x])
        if (weight > 0) row[x] = row[x]! * (1 - weight) + moved[x]! * weight
      }
    }
  }
}

const valueAt = (source: Field, plane: number, x: number, y: number): number =>
  source.planes[plane]![rowStart(source, floorMod(y, source.height)) + floorMod(x, source.width)]!

/** Texels from a border within which the moved picture may be taken. */
const reachOf = ({ band, soft }: CloseOptions): number => Math.ceil(band + soft) + 1

/** Writes a row of one plane with the left and right borders closed. */
function writeAcross(
  source: Field,
  plane: number,
  line: number,
  into: Float32Array,
  options: CloseOptions,
  cuts: Cuts,
): void {
  const { width } = source
  const values = source.planes[plane]!
  const start = rowStart(source, line)
  into.set(values.subarray(start, start + width))
  if (options.edges === 'top and bottom') return
  const half = width >> 1
  const mix = (x: number): void => {
    const weight = weightAt(x, width, options, cuts.left[line], cuts.right[line])
    if (weight > 0) into[x] = into[x]! * (1 - weight) + values[start + ((x + half) % width)]! * weight
  }
  const reach = Math.min(reachOf(options), half)
  for (let x = 0; x < reach; x++) mix(x)
  for (let x = width - reach; x < width; x++) mix(x)
}

/** A whole plane with the left and right borders closed. */
function wholeAcross(source: Field, plane: number, options: CloseOptions, cuts: Cuts, check: () => void): Float32Array {
  const { width, height } = source
  const whole = new Float32Array(width * height)
  for (let y = 0; y < height; y++) {
    if (y % 64 === 0) check()
    writeAcross(source, plane, y, whole.subarray(y * width, (y + 1) * width), options, cuts)
  }
  return whole
}

/** How much of the moved picture is taken: all at the border, none beyond the band or the cut. */
function weightAt(at: number, length: number, { band, soft, cuts }: CloseOptions, first = 0, last = 0): number {
  const fromStart = at
  const fromEnd = length - 1 - at
  const isStart = fromStart <= fromEnd
  const d = isStart ? fromStart : fromEnd
  if (!cuts) return fall(d, 0, band)
  const cut = isStart ? first : last
  return fall(d, cut - soft, cut + soft)
}

/** 1 up to `from`, 0 from `to` on, smooth between (a cubic Hermite step). */
function fall(d: number, from: number, to: number): number {
  if (d <= from) return 1
  if (d >= to) return 0
  const t = (to - d) / (to - from)
  return t * t * (3 - 2 * t)
}

/**
 * For each line the place across the band where a path that moves a place a line at most has the least cost in sum. It ends where it
 * began, as the other borders meet there.
 */
function cheapestPath(
  lines: number,
  band: number,
  soft: number,
  check: () => void,
  costAt: (line: number, d: number) => number,
): Float32Array {
  // Far enough in that the border itself is wholly the moved picture.
  const from = Math.ceil(soft) + 1
  const count = Math.max(1, Math.floor(band - soft) - from)
  const costs = new Float64Array(lines * count)
  for (let line = 0; line < lines; line++) {
    if (line % 64 === 0) check()
    for (let i = 0; i < count; i++) costs[line * count + i] = costAt(line, from + i)
  }
  const free = pathThrough(costs, count, null)
  const closed = pathThrough(costs, count, free[0]!)
  return closed.map((at) => from + at)
}

/** The path of least cost; with `start` it begins there and ends beside it. */
function pathThrough(costs: Float64Array, count: number, start: number | null): Float32Array {
  const lines = costs.length / count
  const cameFrom = new Int8Array(costs.length)
  let before = costs.slice(0, count)
  if (start !== null) before = before.map((cost, i) => (i === start ? cost : Infinity))
  for (let line = 1; line < lines; line++) {
    const sums = new Float64Array(count)
    for (let i = 0; i < count; i++) {
      let step = 0
      if (i > 0 && before[i - 1]! < before[i + step]!) step = -1
      if (i < count - 1 && before[i + 1]! < before[i + step]!) step = 1
      cameFrom[line * count + i] = step
      sums[i] = costs[line * count + i]! + before[i + step]!
    }
    before = sums
  }
  const ends = start === null ? [...before.keys()] : [start, start - 1, start + 1].filter((i) => i >= 0 && i < count)
  let at = ends.reduce((best, i) => (before[i]! < before[best]! ? i : best))
  const path = new Float32Array(lines)
  for (let line = lines - 1; line >= 0; line--) {
    path[line] = at
    at += cameFrom[line * count + at]!
  }
  return path
}
