import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import { exp } from '../elementary'
import type { Rows } from './rows'
import type { Simd } from './simd'
import { simd, pieceRows } from './simd'

const f = Math.fround

/** Above this many texels a Gaussian works on averaged texels. */
const DIRECT_SIGMA = 16
/** Sums along a row or column start anew at multiples of this, so that bands and threads cannot change them. */
const BLOCK = 64

export type BlurProfile = { kind: 'gaussian'; sigma: number } | { kind: 'box'; radius: number }

/** Rows above and below that one blurred row reads. `size` in texels; sigma and radius too. */
export function blurFootprint(profile: BlurProfile, height: number): number {
  if (profile.kind === 'box') return profile.radius <= 0.5 ? 0 : Math.ceil(profile.radius) + BLOCK
  if (profile.sigma < 1e-3) return 0
  const step = stepFor(profile.sigma, height)
  return step === 1 ? tapCount(profile.sigma) : (tapCount(coarseSigma(profile.sigma, step)) + 3) * step
}

/** Half-sided weights w₀…w_n of a sampled Gaussian cut at 4σ, summing to 1 over both sides. */
export function gaussianTaps(sigma: number): Float32Array {
  const n = tapCount(sigma)
  const raw = Array.from({ length: n + 1 }, (_, k) => exp((-0.5 * k * k) / (sigma * sigma)))
  const sum = raw.reduce((total, w, k) => total + (k === 0 ? w : 2 * w), 0)
  return Float32Array.from(raw, (w) => w / sum)
}

const tapCount = (sigma: number): number => Math.ceil(4 * sigma)

/** Texels from one coarse value to the next: the largest power of two up to σ/8 that divides the length; 1 for small σ. */
function stepFor(sigma: number, length: number): number {
  if (sigma <= DIRECT_SIGMA) return 1
  let step = 1
  while (step * 2 <= sigma / 8 && length % (step * 2) === 0) step *= 2
  return step
}

/**
 * What is left for the Gaussian on coarse values d texels apart. A texel goes to the two next to it by its distance, and is
 * read from them in the same way, so that its place is kept; each adds a variance of d²/6 + 1/12 in the mean over places.
 * Own derivation; within 1 % of the peak for a single texel wherever it lies (blur.test.ts). Rejected: plain averages,
 * which move a texel by up to half of d and are off by 3 %.
 */
const coarseSigma = (sigma: number, step: number): number =>
  Math.sqrt((sigma * sigma) / (step * step) - 1 / 3 - 1 / (6 * step * step))

/** Shares of the 2d texels around a coarse value, from the first: 1/2, 3/2, … d − 1/2 and back, over d². */
function tentWeights(step: number): Float32Array {
  return Float32Array.from({ length: 2 * step }, (_, j) => (Math.min(j, 2 * step - 1 - j) + 0.5) / (step * step))
}

/**
 * Blurs one plane, wrapping at the borders, and hands over row after row.
 * Shape: `emit(y, row)` gets `width` values for each y of `rows`; the row is reused. The field must hold
 * blurFootprint rows above and below. Weights sum to 1.
 */
export function blurPlane(
  source: Field,
  plane: Float32Array,
  profile: BlurProfile,
  rows: Rows,
  emit: (y: number, row: Float32Array) => void,
): void {
  const small = profile.kind === 'gaussian' ? profile.sigma < 1e-3 : profile.radius <= 0.5
  const down = new Float32Array(source.width)
  const out = new Float32Array(source.width)
  const rowOf = (y: number): Float32Array => {
    const start = rowStart(source, y)
    return plane.subarray(start, start + source.width)
  }
  if (small) {
    for (let y = rows.from; y < rows.to; y++) emit(y, rowOf(y))
    return
  }
  const bySimd = profile.kind === 'gaussian' ? simdGaussian(profile.sigma, source) : simdBox(profile.radius, source)
  if (bySimd) return bySimd(plane, rows, emit)
  const vertical =
    profile.kind === 'box'
      ? boxDown(rowOf, source.height, profile.radius, rows.from, down)
      : gaussianDown(rowOf, source.height, profile.sigma, rows, down)
  const horizontal =
    profile.kind === 'box' ? boxAlong(profile.radius, source.width) : gaussianAlong(profile.sigma, source.width)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    vertical(y)
    horizontal(down, out)
    emit(y, out)
  }
}

type BlurRows = (plane: Float32Array, rows: Rows, emit: (y: number, row: Float32Array) => void) => void

/** The Gaussian by its twin; null where it has none for this field: rows of whole vectors, wider than the weights reach. */
function simdGaussian(sigma: number, source: Field): BlurRows | null {
  const twin = simd()
  const { width, height } = source
  if (!twin || width % 4 !== 0) return null
  const [down, along] = [stepFor(sigma, height), stepFor(sigma, width)]
  if (down === 1 && along === 1) {
    const taps = gaussianTaps(sigma)
    return taps.length - 1 > width ? null : (plane, rows, emit) => gaussianBySimd(twin, taps, source, plane, rows, emit)
  }
  if (down === 1 || along === 1 || tapCount(coarseSigma(sigma, along)) > width / along) return null
  return (plane, rows, emit) => coarseBySimd(twin, { sigma, down, along }, source, plane, rows, emit)
}

/** A box by its twin; null where it has none for this field: rows of whole vectors. */
function simdBox(radius: number, source: Field): BlurRows | null {
  const twin = source.width % 4 === 0 ? simd() : null
  return twin && ((plane, rows, emit) => boxBySimd(twin, radius, source, plane, rows, emit))
}

function boxBySimd(
  twin: Simd,
  radius: number,
  source: Field,
  plane: Float32Array,
  rows: Rows,
  emit: (y: number, row: Float32Array) => void,
): void {
  const { width, height } = source
  const { whole, edge, scale } = boxParts(radius)
  const pad = whole + 1
  const bytes = width * 4
  const { assembly } = twin
  twin.scratch(() => {
    const rooms = [0, 0].map(() => twin.take(width)) as [number, number]
    const [sums, result] = [twin.take(width), twin.take(width)]
    const line = twin.take(width + 2 * pad)
    const row = line + pad * 4
    const padded = twin.floats(line, width + 2 * pad)
    const out = twin.floats(result, width)
    const rowAt = (y: number, room: number): number => twin.rowsOf(source, plane, y, y + 1, rooms[room]!)
    let at = rows.from - (floorMod(rows.from, height) % BLOCK)
    const restart = (): void => {
      twin.floats(sums, width).fill(0)
      for (let k = -whole; k <= whole; k++) assembly.addToSums(sums, rowAt(at + k, 0), bytes)
    }
    restart()
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      while (at < y) {
        at++
        if (floorMod(at, height) % BLOCK === 0) restart()
        else assembly.moveSums(sums, rowAt(at + whole, 0), rowAt(at - whole - 1, 1), bytes)
      }
      assembly.boxedRow(sums, rowAt(y - whole - 1, 0), rowAt(y + whole + 1, 1), edge, scale, row, bytes)
      if (pad <= width) {
        padded.copyWithin(0, width, width + pad)
        padded.copyWithin(width + pad, pad, 2 * pad)
      } else
        for (let x = 0; x < pad; x++) {
          padded[x] = padded[pad + floorMod(x - pad, width)]!
          padded[pad + width + x] = padded[pad + floorMod(x, width)]!
        }
      assembly.boxAlong(row, result, width, whole, edge, scale, BLOCK)
      emit(y, out)
    }
  })
}

function gaussianBySimd(
  twin: Simd,
  taps: Float32Array,
  source: Field,
  plane: Float32Array,
  rows: Rows,
  emit: (y: number, row: Float32Array) => void,
): void {
  const { width } = source
  const reach = taps.length - 1
  const piece = pieceRows(width)
  const blurred = new Float32Array(piece * width)
  for (let y = rows.from; y < rows.to; y += piece) {
    rows.check()
    const to = Math.min(rows.to, y + piece)
    twin.scratch(() => {
      const weights = twin.take(taps.length)
      const line = twin.take(width + 2 * reach)
      const first = twin.take((to - y + 2 * reach) * width)
      const result = twin.take((to - y) * width)
      twin.floats(weights, taps.length).set(taps)
      const from = twin.rowsOf(source, plane, y - reach, to + reach, first) + reach * width * 4
      twin.assembly.gaussian(from, width * 4, result, width * 4, width, to - y, weights, reach, line)
      blurred.set(twin.floats(result, (to - y) * width))
    })
    // Whoever is handed a row may use the twins too.
    for (let row = y; row < to; row++) emit(row, blurred.subarray((row - y) * width, (row - y + 1) * width))
  }
}

/** A Gaussian on coarse values, down and then along; all of the coarse rows are made first. */
function coarseBySimd(
  twin: Simd,
  { sigma, down, along }: { sigma: number; down: number; along: number },
  source: Field,
  plane: Float32Array,
  rows: Rows,
  emit: (y: number, row: Float32Array) => void,
): void {
  if (rows.to <= rows.from) return
  const { width } = source
  const bytes = width * 4
  const coarseAt = (y: number): number => (y + 0.5) / down - 0.5
  const first = Math.floor(coarseAt(rows.from))
  const count = Math.floor(coarseAt(rows.to - 1)) + 2 - first
  const piece = pieceRows(width)
  const blurred = new Float32Array(piece * width)
  // The coarse rows stay while rows are handed out, piece by piece; whoever takes them may use scratch memory after ours.
  twin.scratch(() => {
    const smooth = twin.take(count * width)
    smoothDown(twin, sigma, down, source, plane, rows, first, count, smooth)
    const reader = alongReader(twin, sigma, along, width)
    const row = twin.take(width)
    const out = twin.take(width)
    for (let y = rows.from; y < rows.to; y += piece) {
      rows.check()
      const to = Math.min(rows.to, y + piece)
      for (let now = y; now < to; now++) {
        const c = Math.floor(coarseAt(now))
        const at = smooth + (c - first) * bytes
        twin.assembly.mixRows(at, at + bytes, f(coarseAt(now) - c), row, bytes)
        reader(row, out)
        blurred.set(twin.floats(out, width), (now - y) * width)
      }
      for (let now = y; now < to; now++) emit(now, blurred.subarray((now - y) * width, (now - y + 1) * width))
    }
  })
}

/** Writes `count` smoothed coarse rows from row `first` on to `smooth`. */
function smoothDown(
  twin: Simd,
  sigma: number,
  step: number,
  source: Field,
  plane: Float32Array,
  rows: Rows,
  first: number,
  count: number,
  smooth: number,
): void {
  const { width } = source
  const bytes = width * 4
  const taps = gaussianTaps(coarseSigma(sigma, step))
  const reach = taps.length - 1
  const weights = tentWeights(step)
  twin.scratch(() => {
    const tapsAt = twin.take(taps.length)
    const row = twin.take(width)
    const gathered = twin.take((count + 2 * reach) * width)
    twin.floats(tapsAt, taps.length).set(taps)
    twin.floats(gathered, (count + 2 * reach) * width).fill(0)
    for (let i = 0; i < count + 2 * reach; i++) {
      rows.check()
      const top = (first - reach + i) * step - step / 2
      for (let j = 0; j < 2 * step; j++) {
        const from = twin.rowsOf(source, plane, top + j, top + j + 1, row)
        twin.assembly.addScaled(gathered + i * bytes, from, weights[j]!, bytes)
      }
    }
    for (let i = 0; i < count; i++) {
      rows.check()
      twin.assembly.convolve(gathered + (i + reach) * bytes, bytes, smooth + i * bytes, bytes, tapsAt, reach)
    }
  })
}

/** Smooths a row along by coarse values; both in scratch memory. */
function alongReader(twin: Simd, sigma: number, step: number, width: number): (row: number, out: number) => void {
  const taps = gaussianTaps(coarseSigma(sigma, step))
  const reach = taps.length - 1
  const weights = tentWeights(step)
  const count = width / step
  // Whole vectors; what is beyond the row is written and not read.
  const rounded = Math.ceil(count / 4) * 4
  const room = rounded + 2 * reach
  const [tapsAt, weightsAt] = [twin.take(taps.length), twin.take(weights.length)]
  const padded = twin.take(rounded * step + 2 * step) + step * 4
  const line = twin.take(room) + reach * 4
  const smooth = twin.take(rounded + 8) + 16
  const [index, part] = [twin.take(width), twin.take(width)]
  twin.floats(tapsAt, taps.length).set(taps)
  twin.floats(weightsAt, weights.length).set(weights)
  const indices = twin.ints(index, width)
  const parts = twin.floats(part, width)
  for (let x = 0; x < width; x++) {
    const at = (x + 0.5) / step - 0.5
    indices[x] = Math.floor(at) * 4
    parts[x] = at - Math.floor(at)
  }
  const { assembly } = twin
  return (row, out) => {
    const all = twin.floats(padded - step * 4, width + 2 * step)
    all.set(twin.floats(row, width), step)
    all.copyWithin(0, width, width + step)
    all.copyWithin(width + step, step, 2 * step)
    assembly.gatherAlong(padded - step * 2, step * 4, weightsAt, 2 * step, line, rounded * 4)
    const coarse = twin.floats(line - reach * 4, count + 2 * reach)
    coarse.copyWithin(0, count, count + reach)
    coarse.copyWithin(count + reach, reach, 2 * reach)
    assembly.convolve(line, 4, smooth, rounded * 4, tapsAt, reach)
    const ends = twin.floats(smooth - 4, count + 2)
    ends[0] = ends[count]!
    ends[count + 1] = ends[1]!
    assembly.interpolateAlong(smooth, index, part, out, width * 4)
  }
}

/** acc += w · (a + b) over n values, rounding every step to float32. */
function addPair(acc: Float32Array, w: number, a: Float32Array, ai: number, b: Float32Array, bi: number): void {
  for (let x = 0; x < acc.length; x++) acc[x] = acc[x]! + f(w * f(a[ai + x]! + b[bi + x]!))
}

function scaleInto(acc: Float32Array, w: number, a: Float32Array, ai: number): void {
  for (let x = 0; x < acc.length; x++) acc[x] = w * a[ai + x]!
}

type RowOf = (y: number) => Float32Array

function convolveRows(rowAt: RowOf, at: number, taps: Float32Array, acc: Float32Array): void {
  scaleInto(acc, taps[0]!, rowAt(at), 0)
  for (let k = 1; k < taps.length; k++) addPair(acc, taps[k]!, rowAt(at - k), 0, rowAt(at + k), 0)
}

function gaussianDown(rowOf: RowOf, height: number, sigma: number, rows: Rows, out: Float32Array): (y: number) => void {
  const step = stepFor(sigma, height)
  if (step === 1) {
    const taps = gaussianTaps(sigma)
    return (y) => convolveRows(rowOf, y, taps, out)
  }
  const taps = gaussianTaps(coarseSigma(sigma, step))
  const weights = tentWeights(step)
  const gathered = new Map<number, Float32Array>()
  const gather: RowOf = (c) => {
    let row = gathered.get(c)
    if (!row) {
      row = new Float32Array(out.length)
      for (let j = 0; j < 2 * step; j++) {
        const from = rowOf(c * step - step / 2 + j)
        const weight = weights[j]!
        for (let x = 0; x < row.length; x++) row[x] = row[x]! + f(weight * from[x]!)
      }
      gathered.set(c, row)
    }
    return row
  }
  const smoothed = new Map<number, Float32Array>()
  const smooth: RowOf = (c) => {
    let row = smoothed.get(c)
    if (!row) {
      row = new Float32Array(out.length)
      convolveRows(gather, c, taps, row)
      smoothed.set(c, row)
    }
    return row
  }
  return (y) => {
    const at = (y + 0.5) / step - 0.5
    const c = Math.floor(at)
    const t = f(at - c)
    for (const stale of smoothed.keys()) if (stale < c) smoothed.delete(stale)
    for (const stale of gathered.keys()) if (stale < c - taps.length) gathered.delete(stale)
    const a = smooth(c)
    const b = smooth(c + 1)
    rows.check()
    for (let x = 0; x < out.length; x++) out[x] = a[x]! + f(t * f(b[x]! - a[x]!))
  }
}

function convolveAlong(row: Float32Array, taps: Float32Array, padded: Float32Array, out: Float32Array): void {
  const n = row.length
  const r = taps.length - 1
  for (let i = 0; i < padded.length; i++) padded[i] = row[floorMod(i - r, n)]!
  scaleInto(out, taps[0]!, padded, r)
  for (let k = 1; k <= r; k++) addPair(out, taps[k]!, padded, r - k, padded, r + k)
}

function gaussianAlong(sigma: number, width: number): (row: Float32Array, out: Float32Array) => void {
  const step = stepFor(sigma, width)
  const taps = gaussianTaps(step === 1 ? sigma : coarseSigma(sigma, step))
  const count = width / step
  const padded = new Float32Array(count + 2 * (taps.length - 1))
  if (step === 1) return (row, out) => convolveAlong(row, taps, padded, out)
  const weights = tentWeights(step)
  const gathered = new Float32Array(count)
  const smooth = new Float32Array(count)
  return (row, out) => {
    for (let c = 0; c < count; c++) {
      let sum = 0
      for (let j = 0; j < 2 * step; j++) sum = f(sum + f(weights[j]! * row[floorMod(c * step - step / 2 + j, width)]!))
      gathered[c] = sum
    }
    convolveAlong(gathered, taps, padded, smooth)
    for (let x = 0; x < width; x++) {
      const at = (x + 0.5) / step - 0.5
      const c = Math.floor(at)
      const a = smooth[floorMod(c, count)]!
      const b = smooth[floorMod(c + 1, count)]!
      out[x] = a + f(f(at - c) * f(b - a))
    }
  }
}

/** Whole texels on each side, and the share of the next one, that a box of half-width `radius` covers. */
function boxParts(radius: number): { whole: number; edge: number; scale: number } {
  const whole = Math.floor(radius - 0.5)
  return { whole, edge: f(radius - 0.5 - whole), scale: f(1 / (2 * radius)) }
}

function boxDown(rowOf: RowOf, height: number, radius: number, first: number, out: Float32Array): (y: number) => void {
  const { whole, edge, scale } = boxParts(radius)
  const sum = new Float32Array(out.length)
  let at = NaN
  const restart = (y: number): void => {
    sum.fill(0)
    for (let k = -whole; k <= whole; k++) {
      const row = rowOf(y + k)
      for (let x = 0; x < sum.length; x++) sum[x] = sum[x]! + row[x]!
    }
    at = y
  }
  const advance = (): void => {
    at++
    if (floorMod(at, height) % BLOCK === 0) return restart(at)
    const enter = rowOf(at + whole)
    const leave = rowOf(at - whole - 1)
    for (let x = 0; x < sum.length; x++) sum[x] = f(sum[x]! + enter[x]!) - leave[x]!
  }
  restart(first - (floorMod(first, height) % BLOCK))
  return (y) => {
    while (at < y) advance()
    const above = rowOf(y - whole - 1)
    const below = rowOf(y + whole + 1)
    for (let x = 0; x < out.length; x++) out[x] = scale * f(sum[x]! + f(edge * f(above[x]! + below[x]!)))
  }
}

function boxAlong(radius: number, width: number): (row: Float32Array, out: Float32Array) => void {
  const { whole, edge, scale } = boxParts(radius)
  const pad = whole + 1
  const padded = new Float32Array(width + 2 * pad)
  return (row, out) => {
    for (let i = 0; i < padded.length; i++) padded[i] = row[floorMod(i - pad, width)]!
    let sum = 0
    for (let x = 0; x < width; x++) {
      const middle = x + pad
      if (x % BLOCK === 0) {
        sum = 0
        for (let k = -whole; k <= whole; k++) sum = f(sum + padded[middle + k]!)
      } else sum = f(f(sum + padded[middle + whole]!) - padded[middle - whole - 1]!)
      out[x] = scale * f(sum + f(edge * f(padded[middle - whole - 1]! + padded[middle + whole + 1]!)))
    }
  }
}
