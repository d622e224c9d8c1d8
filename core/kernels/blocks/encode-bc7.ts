import type { Bc7Mode } from './bc7-modes'
import { MODES, PAIRS, WEIGHTS, anchorOf } from './bc7-modes'
import type { BlockQuality } from './blocks'
import { TEXELS } from './blocks'
import { principalAxis } from './principal-axis'

/** Partitions that are tried of each mode of two subsets, and rounds of least squares, by quality. */
const EFFORT: Readonly<
  Record<
    BlockQuality,
    { readonly partitions: number; readonly rounds: number; readonly lowest: boolean; readonly climbs: number }
  >
> = {
  fast: { partitions: 0, rounds: 1, lowest: false, climbs: 0 },
  normal: { partitions: 1, rounds: 2, lowest: false, climbs: 0 },
  best: { partitions: 8, rounds: 3, lowest: true, climbs: 2 },
}

/** A line through some texels as a mode can tell it. */
interface Fit {
  /** Ends in the mode's bits but the lowest, four channels of the first, then of the second. */
  readonly ends: Int32Array
  readonly lowest: Int32Array
  readonly indices: Uint8Array
  error: number
}

const newFit = (): Fit => ({
  ends: new Int32Array(8),
  lowest: new Int32Array(2),
  indices: new Uint8Array(TEXELS),
  error: Infinity,
})

function copyFit(from: Fit, to: Fit): void {
  to.ends.set(from.ends)
  to.lowest.set(from.lowest)
  to.indices.set(from.indices)
  to.error = from.error
}

const trial = newFit()
const wanted = new Float64Array(8)
const tones = new Float64Array(16 * 4)
const wide = new Float64Array(8)

/** The channels `first` to `first + count` of a line, in a mode's bits: which of them, and how many indices. */
interface Form {
  readonly first: number
  readonly count: number
  readonly bits: readonly [number, number, number, number]
  readonly lowest: 'none' | 'each' | 'shared'
  readonly indexBits: number
}

function widened(value: number, bits: number): number {
  const whole = value << (8 - bits)
  return whole | (whole >> bits)
}

/** Rounds the wanted ends with these lowest bits; how far they are off. */
function roundEnds({ first, count, bits, lowest }: Form, low: number, high: number, fit: Fit): number {
  let off = 0
  fit.lowest[0] = low
  fit.lowest[1] = high
  for (let e = 0; e < 2; e++)
    for (let c = first; c < first + count; c++) {
      const own = bits[c]!
      const v = wanted[e * 4 + c]!
      let q: number
      let made: number
      if (lowest === 'none') {
        q = Math.min((1 << own) - 1, Math.max(0, Math.round((v * ((1 << own) - 1)) / 255)))
        made = widened(q, own)
      } else {
        const p = fit.lowest[e]!
        q = Math.min((1 << own) - 1, Math.max(0, Math.round(((v * ((2 << own) - 1)) / 255 - p) / 2)))
        made = widened((q << 1) | p, own + 1)
      }
      fit.ends[e * 4 + c] = q
      off += (made - v) * (made - v)
    }
  return off
}

/** The nearest tone for each texel of the mask; the sum of squares that they are off. */
function assign(texels: Uint8Array, mask: number, { first, count, bits, lowest, indexBits }: Form, fit: Fit): void {
  for (let e = 0; e < 2; e++)
    for (let c = first; c < first + count; c++) {
      const q = fit.ends[e * 4 + c]!
      wide[e * 4 + c] = lowest === 'none' ? widened(q, bits[c]!) : widened((q << 1) | fit.lowest[e]!, bits[c]! + 1)
    }
  const weights = WEIGHTS[indexBits]!
  const last = weights.length - 1
  let square = 0
  for (let c = first; c < first + count; c++) {
    const d = wide[4 + c]! - wide[c]!
    square += d * d
    for (let t = 0; t <= last; t++)
      tones[t * 4 + c] = ((64 - weights[t]!) * wide[c]! + weights[t]! * wide[4 + c]! + 32) >> 6
  }
  let error = 0
  for (let i = 0; i < TEXELS; i++) {
    if (!((mask >> i) & 1)) continue
    let along = 0
    for (let c = first; c < first + count; c++) along += (texels[4 * i + c]! - wide[c]!) * (wide[4 + c]! - wide[c]!)
    const t = square > 0 ? Math.min(last, Math.max(0, Math.round((along / square) * last))) : 0
    let closest = 0
    for (let c = first; c < first + count; c++) {
      const d = tones[t * 4 + c]! - texels[4 * i + c]!
      closest += d * d
    }
    fit.indices[i] = t
    error += closest
  }
  fit.error = error
}

/** Fits a line to texels, in the best way that `effort` finds. Takes less than `limit` only. */
function fitLine(texels: Uint8Array, mask: number, form: Form, effort: (typeof EFFORT)[BlockQuality], best: Fit): void {
  const { first, count } = form
  best.error = Infinity
  if (count === 1) {
    let [lo, hi] = [255, 0]
    for (let i = 0; i < TEXELS; i++) {
      const v = texels[4 * i + first]!
      if (v < lo) lo = v
      if (v > hi) hi = v
    }
    wanted[first] = lo
    wanted[4 + first] = hi
  } else {
    const { mean, axis, from, to } = principalAxis(texels, mask, first + count)
    for (let c = first; c < first + count; c++) {
      wanted[c] = Math.min(255, Math.max(0, mean[c]! + axis[c]! * from))
      wanted[4 + c] = Math.min(255, Math.max(0, mean[c]! + axis[c]! * to))
    }
  }
  const look = (): boolean => {
    let better = false
    const { lowest } = form
    if (lowest === 'none' || effort.lowest) {
      for (let p = 0; p < (lowest === 'each' ? 4 : lowest === 'shared' ? 2 : 1); p++) {
        const [a, b] = lowest === 'each' ? [p & 1, p >> 1] : [p, p]
        roundEnds(form, a, b, trial)
        assign(texels, mask, form, trial)
        if (trial.error < best.error) {
          copyFit(trial, best)
          better = true
        }
      }
      return better
    }
    // The lowest bits that come nearest to the wanted ends.
    let [closest, low, high] = [Infinity, 0, 0]
    for (let p = 0; p < (lowest === 'each' ? 4 : 2); p++) {
      const [a, b] = lowest === 'each' ? [p & 1, p >> 1] : [p, p]
      const off = roundEnds(form, a, b, trial)
      if (off < closest) [closest, low, high] = [off, a, b]
    }
    roundEnds(form, low, high, trial)
    assign(texels, mask, form, trial)
    if (trial.error >= best.error) return false
    copyFit(trial, best)
    return true
  }
  look()
  for (let round = 0; round < effort.rounds && best.error > 0; round++)
    if (!leastSquares(texels, mask, form, best) || !look()) break
  for (let climb = 0; climb < effort.climbs && best.error > 0; climb++) if (!climbed(texels, mask, form, best)) break
}

/** Moves single ends by a step while that makes it better. */
function climbed(texels: Uint8Array, mask: number, form: Form, best: Fit): boolean {
  let better = false
  for (let e = 0; e < 2; e++)
    for (let c = form.first; c < form.first + form.count; c++)
      for (let step = -1; step <= 1; step += 2) {
        copyFit(best, trial)
        const moved = trial.ends[e * 4 + c]! + step
        if (moved < 0 || moved >= 1 << form.bits[c]!) continue
        trial.ends[e * 4 + c] = moved
        assign(texels, mask, form, trial)
        if (trial.error < best.error) {
          copyFit(trial, best)
          better = true
        }
      }
  return better
}

/** Ends that fit the texels best at the indices found; false where they do not tell. */
function leastSquares(texels: Uint8Array, mask: number, { first, count, indexBits }: Form, best: Fit): boolean {
  const weights = WEIGHTS[indexBits]!
  let [aa, ab, bb] = [0, 0, 0]
  for (let i = 0; i < TEXELS; i++) {
    if (!((mask >> i) & 1)) continue
    const w = weights[best.indices[i]!]! / 64
    aa += (1 - w) * (1 - w)
    ab += (1 - w) * w
    bb += w * w
  }
  const det = aa * bb - ab * ab
  if (det < 1e-9) return false
  for (let c = first; c < first + count; c++) {
    let [av, bv] = [0, 0]
    for (let i = 0; i < TEXELS; i++) {
      if (!((mask >> i) & 1)) continue
      const w = weights[best.indices[i]!]! / 64
      av += (1 - w) * texels[4 * i + c]!
      bv += w * texels[4 * i + c]!
    }
    wanted[c] = Math.min(255, Math.max(0, (av * bb - bv * ab) / det))
    wanted[4 + c] = Math.min(255, Math.max(0, (bv * aa - av * ab) / det))
  }
  return true
}

/** A block as it can be written. */
interface Candidate {
  mode: number
  partition: number
  rotation: number
  /** One for each subset; of a mode with two sets of indices, colour and alpha. */
  readonly fits: readonly [Fit, Fit]
  error: number
}

const newCandidate = (): Candidate => ({
  mode: 6,
  partition: 0,
  rotation: 0,
  fits: [newFit(), newFit()],
  error: Infinity,
})
const attempt = newCandidate()
const winner = newCandidate()

function keep(): void {
  if (attempt.error >= winner.error) return
  winner.mode = attempt.mode
  winner.partition = attempt.partition
  winner.rotation = attempt.rotation
  winner.error = attempt.error
  copyFit(attempt.fits[0], winner.fits[0])
  copyFit(attempt.fits[1], winner.fits[1])
}

const formOf = ({ colourBits, alphaBits, endpointBits, sharedBits, indexBits }: Bc7Mode): Form => ({
  first: 0,
  count: alphaBits > 0 ? 4 : 3,
  bits: [colourBits, colourBits, colourBits, alphaBits],
  lowest: endpointBits ? 'each' : sharedBits ? 'shared' : 'none',
  indexBits,
})
const FORMS = MODES.map(formOf)
/** Colour and alpha of mode 5, each with its own indices. */
const COLOUR_OF_5: Form = { ...FORMS[5]!, count: 3 }
const ALPHA_OF_5: Form = { ...FORMS[5]!, first: 3, count: 1 }

const turned = new Uint8Array(TEXELS * 4)

/**
 * Sixteen RGBA texels as a block of BC7, sixteen bytes from `at` on. Modes 6 and 5, and 1, 3 and 7 with the partitions whose texels lie
 * nearest to lines. Source: Khronos Data Format Specification 1.3, chapter 20; the search is our own.
 */
export function encodeBc7(texels: Uint8Array, quality: BlockQuality, out: Uint8Array, at: number): void {
  const effort = EFFORT[quality]
  let opaque = true
  for (let i = 0; i < TEXELS; i++) if (texels[4 * i + 3] !== 255) opaque = false
  winner.error = Infinity
  attempt.mode = 6
  attempt.partition = attempt.rotation = 0
  fitLine(texels, 0xffff, FORMS[6]!, effort, attempt.fits[0])
  attempt.error = attempt.fits[0].error
  keep()
  if (winner.error > 0 && (!opaque || quality === 'best')) tryMode5(texels, effort, quality === 'best')
  if (winner.error > 0 && effort.partitions > 0) {
    const order = likelyPartitions(texels, opaque ? 3 : 4, effort.partitions)
    for (const mode of opaque ? (quality === 'best' ? [1, 3] : [1]) : [7])
      for (const partition of order) tryPartition(texels, mode, partition, effort)
  }
  write(out, at)
}

/** Colour along one line and a channel of its own along another: alpha, or one that changes places with it. */
function tryMode5(texels: Uint8Array, effort: (typeof EFFORT)[BlockQuality], turns: boolean): void {
  for (let rotation = 0; rotation < (turns ? 4 : 1); rotation++) {
    turned.set(texels)
    if (rotation > 0)
      for (let i = 0; i < TEXELS; i++) {
        turned[4 * i + rotation - 1] = texels[4 * i + 3]!
        turned[4 * i + 3] = texels[4 * i + rotation - 1]!
      }
    attempt.mode = 5
    attempt.partition = 0
    attempt.rotation = rotation
    fitLine(turned, 0xffff, COLOUR_OF_5, effort, attempt.fits[0])
    if (attempt.fits[0].error >= winner.error) continue
    fitLine(turned, 0xffff, ALPHA_OF_5, effort, attempt.fits[1])
    attempt.error = attempt.fits[0].error + attempt.fits[1].error
    keep()
  }
}

function tryPartition(
  texels: Uint8Array,
  mode: number,
  partition: number,
  effort: (typeof EFFORT)[BlockQuality],
): void {
  attempt.mode = mode
  attempt.partition = partition
  attempt.rotation = 0
  const second = PAIRS[partition]!
  fitLine(texels, ~second & 0xffff, FORMS[mode]!, effort, attempt.fits[0])
  if (attempt.fits[0].error >= winner.error) return
  fitLine(texels, second, FORMS[mode]!, effort, attempt.fits[1])
  attempt.error = attempt.fits[0].error + attempt.fits[1].error
  keep()
}

/** Sums and products of channels: of each texel, of all, and of the two sets of a partition. */
const TERMS = 14
const terms = new Float64Array(TEXELS * TERMS)
const whole = new Float64Array(TERMS)
const scatter = new Float64Array(2 * TERMS)
const rests = new Float64Array(64)

/** Where the product of two channels stands among the terms, the second not before the first. */
const product = (a: number, b: number): number => 4 + a * 4 - (a * (a + 1)) / 2 + b

/** The partitions whose two sets of texels lie nearest to a line each. */
function likelyPartitions(texels: Uint8Array, channels: number, count: number): number[] {
  whole.fill(0)
  for (let i = 0; i < TEXELS; i++)
    for (let a = 0; a < channels; a++) {
      const x = texels[4 * i + a]!
      terms[i * TERMS + a] = x
      for (let b = a; b < channels; b++) terms[i * TERMS + product(a, b)] = x * texels[4 * i + b]!
    }
  for (let i = 0; i < TEXELS; i++) for (let t = 0; t < TERMS; t++) whole[t]! += terms[i * TERMS + t]!
  for (let p = 0; p < 64; p++) rests[p] = restOf(PAIRS[p]!, channels)
  const order: number[] = []
  for (let n = 0; n < count; n++) {
    let closest = -1
    for (let p = 0; p < 64; p++) if ((closest < 0 || rests[p]! < rests[closest]!) && !order.includes(p)) closest = p
    order.push(closest)
  }
  return order
}

/** What is left of the scatter of both sets once their lines are taken away. */
function restOf(second: number, channels: number): number {
  scatter.fill(0, TERMS)
  let count = 0
  for (let i = 0; i < TEXELS; i++) {
    if (!((second >> i) & 1)) continue
    count++
    const at = i * TERMS
    for (let t = 0; t < TERMS; t++) scatter[TERMS + t]! += terms[at + t]!
  }
  for (let t = 0; t < TERMS; t++) scatter[t] = whole[t]! - scatter[TERMS + t]!
  return offLine(0, TEXELS - count, channels) + offLine(TERMS, count, channels)
}

const matrix = new Float64Array(16)
const line = new Float64Array(4)
const image = new Float64Array(4)

function offLine(at: number, count: number, channels: number): number {
  let trace = 0
  let widest = 0
  for (let a = 0; a < channels; a++)
    for (let b = a; b < channels; b++) {
      const v = scatter[at + product(a, b)]! - (scatter[at + a]! * scatter[at + b]!) / count
      matrix[a * 4 + b] = matrix[b * 4 + a] = v
      if (a === b) {
        trace += v
        if (v > matrix[widest * 5]!) widest = a
      }
    }
  for (let a = 0; a < channels; a++) line[a] = matrix[widest * 4 + a]!
  let longest = 0
  for (let round = 0; round < 3; round++) {
    let [length, stretched] = [0, 0]
    for (let a = 0; a < channels; a++) {
      let sum = 0
      for (let b = 0; b < channels; b++) sum += matrix[a * 4 + b]! * line[b]!
      image[a] = sum
      length += line[a]! * line[a]!
      stretched += sum * line[a]!
    }
    if (length < 1e-12) return Math.max(0, trace)
    longest = stretched / length
    // Kept from growing without end.
    const scale = 1 / Math.sqrt(length)
    for (let a = 0; a < channels; a++) line[a] = image[a]! * scale
  }
  return Math.max(0, trace - longest)
}

/** Writes bits from the lowest on. */
let place = 0
function put(out: Uint8Array, at: number, value: number, count: number): void {
  for (let i = 0; i < count; i++, place++) if ((value >> i) & 1) out[at + (place >> 3)]! |= 1 << (place & 7)
}

function write(out: Uint8Array, at: number): void {
  const { mode: number, partition, rotation, fits } = winner
  const mode = MODES[number]!
  out.fill(0, at, at + 16)
  place = 0
  put(out, at, 1 << number, number + 1)
  put(out, at, partition, mode.partitionBits)
  put(out, at, rotation, mode.rotationBits)
  const apart = mode.secondBits > 0
  if (apart) {
    settleAnchor(fits[0], 0, mode.indexBits)
    settleAnchor(fits[1], 0, mode.secondBits)
  } else
    for (let s = 0; s < mode.subsets; s++)
      settleAnchor(fits[s as 0 | 1], anchorOf(mode.subsets, partition, s), mode.indexBits)
  for (let c = 0; c < 4; c++) {
    const bits = c === 3 ? mode.alphaBits : mode.colourBits
    for (let s = 0; s < mode.subsets; s++) {
      const { ends } = fits[apart && c === 3 ? 1 : (s as 0 | 1)]
      put(out, at, ends[c]!, bits)
      put(out, at, ends[4 + c]!, bits)
    }
  }
  if (mode.endpointBits)
    for (let s = 0; s < mode.subsets; s++) for (let e = 0; e < 2; e++) put(out, at, fits[s as 0 | 1].lowest[e]!, 1)
  if (mode.sharedBits) for (let s = 0; s < mode.subsets; s++) put(out, at, fits[s as 0 | 1].lowest[0]!, 1)
  const second = mode.subsets === 2 ? PAIRS[partition]! : 0
  for (let i = 0; i < TEXELS; i++) {
    const s = ((second >> i) & 1) as 0 | 1
    const isAnchor = anchorOf(mode.subsets, partition, s) === i
    put(out, at, fits[s].indices[i]!, isAnchor ? mode.indexBits - 1 : mode.indexBits)
  }
  if (apart)
    for (let i = 0; i < TEXELS; i++) put(out, at, fits[1].indices[i]!, i === 0 ? mode.secondBits - 1 : mode.secondBits)
}

/** An anchor's index has its highest bit left out: where it is set, the ends change places. */
function settleAnchor(fit: Fit, anchor: number, bits: number): void {
  const last = (1 << bits) - 1
  if (fit.indices[anchor]! <= last >> 1) return
  for (let c = 0; c < 4; c++) [fit.ends[c], fit.ends[4 + c]] = [fit.ends[4 + c]!, fit.ends[c]!]
  ;[fit.lowest[0], fit.lowest[1]] = [fit.lowest[1]!, fit.lowest[0]!]
  for (let i = 0; i < TEXELS; i++) fit.indices[i] = last - fit.indices[i]!
}
