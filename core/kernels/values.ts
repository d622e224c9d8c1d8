import type { Field } from '../field/field'
import type { Levels } from './levels'
import { applyLevels } from './levels'
import { hermitePieces, monotoneCurve } from './curve'
import { mapValues, smoothstep } from './point'
import type { Rows } from './rows'
import type { Assembly } from './assembly.generated'
import { simd } from './simd'

/** Fields mapped value by value, with twins in core/kernels/assembly/values.ts. Results are kept finite. */

/** A straight line: where 0 and 1 come from, and what they become. */
export interface Line {
  readonly from: number
  /** Not 0. */
  readonly width: number
  readonly to: number
  readonly span: number
  readonly clamp?: boolean
}

type Twin = (assembly: Assembly, source: number, out: number, count: number, plane: number) => void

function mapBy(source: Field, out: Field, rows: Rows, define: (v: number, plane: number) => number, by: Twin): void {
  const twin = simd()
  if (!twin) return mapValues(source, out, rows, define)
  out.planes.forEach((plane, p) =>
    twin.runs(rows, out.width, [[source, source.planes[p]!]], [[out, plane]], (count, [from], [to]) =>
      by(twin.assembly, from!, to!, count, p),
    ),
  )
}

/** to + span · (v − from) / width. */
export function remapValues(source: Field, out: Field, rows: Rows, line: Line): void {
  const { from, width, to, span, clamp = false } = line
  const define = (v: number): number => {
    let t = (v - from) / width
    if (clamp) t = t < 0 ? 0 : t > 1 ? 1 : t
    return to + span * t
  }
  mapBy(source, out, rows, define, (assembly, a, b, count) => assembly.remap(a, b, count, from, width, to, span, clamp))
}

/** scale · v + offset of each plane. */
export function straightLines(
  source: Field,
  out: Field,
  rows: Rows,
  lines: readonly (readonly [scale: number, offset: number])[],
): void {
  const define = (v: number, plane: number): number => lines[plane]![1] + lines[plane]![0] * v
  mapBy(source, out, rows, define, (assembly, a, b, count, plane) => {
    const [scale, offset] = lines[plane]!
    assembly.remap(a, b, count, 0, 1, offset, scale, false)
  })
}

/** 0 below `low`, 1 above `high`, smooth between (smoothstep). */
export function thresholdValues(source: Field, out: Field, rows: Rows, low: number, high: number): void {
  const define = (v: number): number => smoothstep(low, high, v)
  mapBy(source, out, rows, define, (assembly, a, b, count) => assembly.threshold(a, b, count, low, high))
}

/** Levels of each plane (applyLevels). */
export function levelsOfValues(source: Field, out: Field, rows: Rows, planes: readonly Levels[]): void {
  const define = (v: number, plane: number): number => applyLevels(v, planes[plane]!)
  if (planes.some(({ low, high }) => low === high)) return mapValues(source, out, rows, define)
  mapBy(source, out, rows, define, (assembly, a, b, count, plane) => {
    const { low, high, gamma, outLow, outHigh, clamp } = planes[plane]!
    if (gamma === 1) assembly.remap(a, b, count, low, high - low, outLow, outHigh - outLow, clamp)
    else assembly.levels(a, b, count, low, high - low, 1 / gamma, outLow, outHigh - outLow, clamp)
  })
}

/** A curve through points (monotoneCurve). */
export function curveOfValues(
  source: Field,
  out: Field,
  rows: Rows,
  points: readonly { at: number; to: number }[],
): void {
  const twin = simd()
  if (!twin) return mapValues(source, out, rows, monotoneCurve(points))
  twin.scratch(() => {
    const pieces = hermitePieces(points)
    const at = twin.take(8 * pieces.length)
    const numbers = new Float64Array(twin.shared.buffer, at, 4 * pieces.length)
    pieces.forEach(({ x, y, slope, width }, i) => numbers.set([x, y, slope, width], 4 * i))
    const define = monotoneCurve(points)
    mapBy(source, out, rows, define, (assembly, a, b, count) => assembly.curve(a, b, count, at, pieces.length - 1))
  })
}

/** t / ((1/a − 2)(1 − t) + 1): 0 and 1 stay, ½ becomes a. */
const bias = (t: number, lean: number): number => t / (lean * (1 - t) + 1)

/** Bias and gain of values held to 0–1. */
export function biasAndGain(source: Field, out: Field, rows: Rows, biasTo: number, gainTo: number): void {
  const [first, second] = [1 / biasTo - 2, 1 / (1 - gainTo) - 2]
  const define = (v: number): number => {
    const t = bias(v < 0 ? 0 : v > 1 ? 1 : v, first)
    // Below the middle gain is a bias of 1 − gain at twice the scale, above it the mirror of that.
    return t < 0.5 ? bias(2 * t, second) / 2 : 1 - bias(2 - 2 * t, second) / 2
  }
  mapBy(source, out, rows, define, (assembly, a, b, count) => assembly.biasGain(a, b, count, first, second))
}
