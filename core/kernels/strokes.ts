import type { Field } from '../field/field'
import { createField, floorMod, rowStart } from '../field/field'
import { hashInto, unitFloat } from '../random'
import { cosTurns, sinTurns } from '../elementary'
import { smoothstep } from './point'
import type { Rows } from './rows'
import type { Simd } from './simd'
import { simd } from './simd'

/** How strokes are scattered. Lengths in tile widths, angles in turns counter-clockwise. */
export interface StrokeRequest {
  readonly count: number
  readonly length: readonly [number, number]
  readonly width: readonly [number, number]
  readonly angle: number
  readonly spread: number
  /** How far the middle strays sideways, as a share of the length. */
  readonly bend: number
  /** How much thinner the ends are. */
  readonly taper: number
  /** How much of half the width is edge. */
  readonly softness: number
}

/** Straight pieces that stand for one bent stroke. */
const PIECES = 10

/** Numbers that stand for one laid stroke: x, y of the ends of its pieces, half its width, its value. */
const STRIDE = 2 * (PIECES + 1) + 2
const HALF = STRIDE - 2
const VALUE = STRIDE - 1

/** Lays random strokes on a tile of `height` widths: their numbers one after the other. Calls `check` now and then. */
export function layStrokes(request: StrokeRequest, stream: number, height: number, check: () => void): Float64Array {
  const strokes = new Float64Array(request.count * STRIDE)
  for (let i = 0; i < request.count; i++) {
    if (i % 256 === 0) check()
    layStroke(strokes.subarray(i * STRIDE, (i + 1) * STRIDE), request, hashInto(stream, i), height)
  }
  return strokes
}

function layStroke(stroke: Float64Array, request: StrokeRequest, own: number, height: number): void {
  const random = (what: number): number => unitFloat(hashInto(own, what))
  const between = ([a, b]: readonly [number, number], what: number): number => a + (b - a) * random(what)
  const angle = request.angle + request.spread * (random(2) - 0.5)
  const length = between(request.length, 3)
  const [cos, sin] = [cosTurns(angle), -sinTurns(angle)]
  const bend = request.bend * length * (2 * random(5) - 1)
  const [x, y] = [random(0), random(1) * height]
  for (let k = 0; k <= PIECES; k++) {
    const t = k / PIECES - 0.5
    // A parabola through both ends whose middle is moved by the bend.
    const aside = bend * (1 - 4 * t * t)
    stroke[2 * k] = x + cos * length * t - sin * aside
    stroke[2 * k + 1] = y + sin * length * t + cos * aside
  }
  stroke[HALF] = between(request.width, 4) / 2
  stroke[VALUE] = random(6)
}

/** Called for every texel that a stroke covers: x, y unwrapped, how much, its value and direction (v down). */
export type StrokeTexel = (x: number, y: number, cover: number, value: number, du: number, dv: number) => void

/**
 * Draws laid strokes over rows, wrapping. Texels may be called several times; the order of strokes is always the same.
 * A stroke thinner than a texel covers as much less. Source: own derivation; distance to a segment as kernels/polygon.ts.
 */
export function drawStrokes(
  strokes: Float64Array,
  request: Pick<StrokeRequest, 'taper' | 'softness'>,
  size: { width: number; height: number },
  rows: Rows,
  texel: StrokeTexel,
): void {
  const { width, height } = size
  const tile = height / width
  const runs = runsOf(rows, height)
  for (let i = 0; i < strokes.length; i += STRIDE) {
    if (i % (16 * STRIDE) === 0) rows.check()
    const stroke = strokes.subarray(i, i + STRIDE)
    for (let k = 0; k < PIECES; k++) for (const run of runs) drawPiece(stroke, k, request, width, tile, run, texel)
  }
}

interface Run {
  readonly from: number
  readonly to: number
  readonly shift: number
}

/** Rows of the tile without wrapping, so that a place is the same number in every band. */
function runsOf(rows: Rows, height: number): Run[] {
  const runs: Run[] = []
  for (let y = rows.from; y < rows.to;) {
    const from = floorMod(y, height)
    const count = Math.min(rows.to - y, height - from)
    runs.push({ from, to: from + count, shift: y - from })
    y += count
  }
  return runs
}

/** Where strokes are drawn: the brightest one's brightness, value and direction at each texel, 0 where there is none. */
export interface StrokeFields {
  readonly grey?: Field | null
  readonly value?: Field | null
  readonly direction?: Field | null
}

/** Draws laid strokes into fields; `vary` is how much fainter those of a great value are. */
export function strokeFields(
  strokes: Float64Array,
  request: Pick<StrokeRequest, 'taper' | 'softness'> & { readonly vary: number },
  size: { width: number; height: number },
  rows: Rows,
  out: StrokeFields,
): void {
  const some = out.grey ?? out.value ?? out.direction
  if (!some) return
  const twin = simd()
  if (twin) return twin.scratch(() => strokesByTwin(twin, strokes, request, size, rows, out))
  const { width, height } = size
  const grey = out.grey ?? createField('grey', width, height, { top: rows.from, rows: rows.to - rows.from })
  for (let y = rows.from; y < rows.to; y++) {
    const start = rowStart(some, y)
    for (const field of [out.grey, out.value, out.direction])
      for (const plane of field?.planes ?? []) plane.fill(0, start, start + width)
  }
  drawStrokes(strokes, request, size, rows, (x, y, cover, value, du, dv) => {
    const level = Math.fround(cover * (1 - request.vary * value))
    const at = rowStart(grey, y) + x
    if (level <= grey.planes[0]![at]!) return
    grey.planes[0]![at] = level
    const i = rowStart(some, y) + x
    if (out.value) out.value.planes[0]![i] = value
    if (out.direction) {
      out.direction.planes[0]![i] = du + 0
      out.direction.planes[1]![i] = dv + 0
    }
  })
}

/** Strokes drawn between two looks at whether the work is still wanted. */
const AT_ONCE = 64

function strokesByTwin(
  twin: Simd,
  strokes: Float64Array,
  { taper, softness, vary }: Pick<StrokeRequest, 'taper' | 'softness'> & { readonly vary: number },
  { width, height }: { width: number; height: number },
  rows: Rows,
  { grey, value, direction }: StrokeFields,
): void {
  const count = (rows.to - rows.from) * width
  const laid = twin.take(2 * strokes.length)
  new Float64Array(twin.shared.buffer, laid, strokes.length).set(strokes)
  // Brightness is needed to tell the brightest, also where nobody wants it.
  const planes = [
    [grey, grey?.planes[0]],
    [value, value?.planes[0]],
    [direction, direction?.planes[0]],
    [direction, direction?.planes[1]],
  ] as const
  // Rows that lie in shared memory are drawn in place, and need no room.
  const at = planes.map(([field, plane], i) => {
    const there = field && plane ? twin.target(field, plane, rows.from, rows.to, -1) : -1
    return there >= 0 ? there : field || i === 0 ? twin.take(count) : 0
  })
  for (const one of at) if (one) twin.floats(one, count).fill(0)
  for (const { from, to, shift } of runsOf(rows, height))
    for (let i = 0; i < strokes.length / STRIDE; i += AT_ONCE) {
      rows.check()
      const some = Math.min(AT_ONCE, strokes.length / STRIDE - i)
      const first = laid + i * STRIDE * 8
      twin.assembly.strokesRows(
        first,
        some,
        width,
        height / width,
        from,
        to,
        shift,
        rows.from,
        taper,
        softness,
        vary,
        at[0]!,
        at[1]!,
        at[2]!,
        at[3]!,
      )
    }
  planes.forEach(([field, plane], i) => {
    const there = field && plane && twin.target(field, plane, rows.from, rows.to, -1) >= 0
    if (field && plane && !there) twin.written(at[i]!, field, plane, rows.from, rows.to, at[i]!)
  })
}

function drawPiece(
  stroke: Float64Array,
  k: number,
  { taper, softness }: Pick<StrokeRequest, 'taper' | 'softness'>,
  width: number,
  tile: number,
  run: Run,
  texel: StrokeTexel,
): void {
  const one = 1 / width
  const [half, value] = [stroke[HALF]!, stroke[VALUE]!]
  const reach = half + one
  const [ax, ay, bx, by] = [stroke[2 * k]!, stroke[2 * k + 1]!, stroke[2 * k + 2]!, stroke[2 * k + 3]!]
  const [ex, ey] = [bx - ax, by - ay]
  const square = ex * ex + ey * ey
  const length = Math.sqrt(square)
  const [left, right] = [Math.min(ax, bx) - reach, Math.max(ax, bx) + reach]
  const [top, low] = [Math.min(ay, by) - reach, Math.max(ay, by) + reach]
  for (let ty = Math.floor(top / tile); ty <= Math.floor(low / tile); ty++) {
    const y0 = Math.max(run.from, Math.ceil((top - ty * tile) * width - 0.5))
    const y1 = Math.min(run.to - 1, Math.floor((low - ty * tile) * width - 0.5))
    for (let y = y0; y <= y1; y++)
      for (let x = Math.ceil(left * width - 0.5); x <= Math.floor(right * width - 0.5); x++) {
        const px = (x + 0.5) / width - ax
        const py = (y + 0.5) / width + ty * tile - ay
        let t = square > 0 ? (px * ex + py * ey) / square : 0
        t = t < 0 ? 0 : t > 1 ? 1 : t
        const dx = px - t * ex
        const dy = py - t * ey
        const away = Math.sqrt(dx * dx + dy * dy)
        const along = Math.abs((2 * (k + t)) / PIECES - 1)
        const wide = half * (1 - taper * along)
        const edge = Math.max(wide * softness, one)
        // Where the profile would not fit, a line as wide as its edge covers the same amount, fainter.
        const middle = wide * (1 - softness / 2)
        const fits = Math.max(middle, edge / 2)
        const cover = (middle / fits) * (1 - smoothstep(fits - edge / 2, fits + edge / 2, away))
        if (cover > 0)
          texel(
            floorMod(x, width),
            y + run.shift,
            cover,
            value,
            length > 0 ? ex / length : 0,
            length > 0 ? ey / length : 0,
          )
      }
  }
}
