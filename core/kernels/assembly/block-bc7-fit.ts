import { PLANE, lineThrough, sum, within } from './block-texels'

/*
 * Fits of BC7: ends and indices for some texels along one line, in the bits of a mode.
 * Source: Khronos Data Format Specification 1.3, chapter 20; the search is our own: ends along the line that the texels lie on, least squares
 * over the indices, all lowest bits, then steps of single ends.
 */

/** A fit: ends in the mode's bits without the lowest (four of the first, four of the second), both lowest bits, sixteen indices, error. */
export const LOWEST: usize = 32
export const INDICES: usize = 40
const ERROR: usize = 104
export const FIT: usize = 112
/** Of each mode: subsets, bits of partition, rotation, selection, colour, alpha, each lowest bit, a shared one, indices, second indices. */
const MODE: usize = 40
/** Bytes of the eight modes. */
export const MODES: usize = 8 * MODE

let modesAt: usize = 0
/** Ends wanted and ends as they are decoded, four numbers of the first, then of the second. */
let wantedAt: usize = 0
let wideAt: usize = 0
let trialAt: usize = 0

/** The form at hand: which channels, their bits, what lowest bits there are (0 none, 1 each, 2 shared), and the last index. */
let first: i32 = 0
let end: i32 = 4
let colourBits: i32 = 7
let alphaBits: i32 = 7
let lowestBits: i32 = 1
let last: f32 = 15
/** Channels of the texels at hand. */
let planes: usize = 0
/** How hard it is looked for. */
let rounds: i32 = 0
let allLowest: bool = false

/** Sets where the modes are told, and 64 bytes and a fit to work in. */
export function fitAt(modes: usize, work: usize): void {
  modesAt = modes
  wantedAt = work
  wideAt = work + 32
  trialAt = work + 64
}

/** Sets the channels of the texels that are fitted. */
export function setPlanes(at: usize): void {
  planes = at
}

/** Sets the rounds of least squares, and whether all lowest bits are tried or those that come nearest to the ends wanted. */
export function setEffort(count: i32, all: bool): void {
  rounds = count
  allLowest = all
}

export function modeAt(mode: i32, field: usize): i32 {
  return load<i32>(modesAt + <usize>mode * MODE + (field << 2))
}

export function setForm(mode: i32, from: i32, to: i32, indexBits: i32): void {
  first = from
  end = to
  colourBits = modeAt(mode, 4)
  alphaBits = modeAt(mode, 5)
  lowestBits = modeAt(mode, 6) ? 1 : modeAt(mode, 7) ? 2 : 0
  last = <f32>((1 << indexBits) - 1)
}

function bitsOf(c: i32): i32 {
  return c == 3 ? alphaBits : colourBits
}

/** A value of so many bits as one of eight. */
function widened(value: i32, bits: i32): i32 {
  const whole = value << (8 - bits)
  return whole | (whole >> bits)
}

/** Rounds the wanted ends into a fit with these lowest bits; how far they are off. */
function roundEnds(fit: usize, low: i32, high: i32): f32 {
  let off: f32 = 0
  store<i32>(fit + LOWEST, low)
  store<i32>(fit + LOWEST + 4, high)
  for (let e: i32 = 0; e < 2; e++)
    for (let c = first; c < end; c++) {
      const bits = bitsOf(c)
      const at = (<usize>(e * 4 + c)) << 2
      const v = load<f32>(wantedAt + at)
      let q: i32
      let made: i32
      if (lowestBits == 0) {
        q = <i32>((v * <f32>((1 << bits) - 1)) / <f32>255 + <f32>0.5)
        made = widened(q, bits)
      } else {
        const p = e ? high : low
        q = <i32>f32.floor(((v * <f32>((2 << bits) - 1)) / <f32>255 - <f32>p) * <f32>0.5 + <f32>0.5)
        q = max(0, min((1 << bits) - 1, q))
        made = widened((q << 1) | p, bits + 1)
      }
      store<i32>(fit + at, q)
      off += (<f32>made - v) * (<f32>made - v)
    }
  return off
}

/** The square that a tone is off: `w` of 64 of the way `d`, rounded, against `v`. */
function squareOff(w: v128, d: v128, v: v128): v128 {
  const tone = f32x4.floor(f32x4.add(f32x4.mul(f32x4.mul(w, d), f32x4.splat(<f32>1 / <f32>64)), f32x4.splat(0.5)))
  const off = f32x4.sub(tone, v)
  return f32x4.mul(off, off)
}

/** Finds the nearest tone for each texel that counts; the sum of squares that they are off, which is put into the fit too. */
function assign(fit: usize, counted: usize): f32 {
  let square: f32 = 0
  for (let c = first; c < end; c++) {
    const bits = bitsOf(c)
    const at = (<usize>c) << 2
    const p = load<i32>(fit + at)
    const q = load<i32>(fit + at + 16)
    const a = lowestBits ? widened((p << 1) | load<i32>(fit + LOWEST), bits + 1) : widened(p, bits)
    const b = lowestBits ? widened((q << 1) | load<i32>(fit + LOWEST + 4), bits + 1) : widened(q, bits)
    store<f32>(wideAt + at, <f32>a)
    store<f32>(wideAt + at + 16, <f32>(b - a))
    square += <f32>(b - a) * <f32>(b - a)
  }
  const zero = f32x4.splat(0)
  const half = f32x4.splat(0.5)
  const one = f32x4.splat(1)
  const LAST = f32x4.splat(last)
  const scale = f32x4.splat(square > 0 ? last / square : 0)
  // Weights are of 64, rounded to the nearest; tones as well.
  const weight = f32x4.splat(<f32>64 / last)
  // Colours, colours and alpha, or alpha alone.
  const colours = first == 0
  const alpha = end == 4
  const a0 = v128.load32_splat(wideAt)
  const a1 = v128.load32_splat(wideAt + 4)
  const a2 = v128.load32_splat(wideAt + 8)
  const a3 = v128.load32_splat(wideAt + 12)
  const d0 = v128.load32_splat(wideAt + 16)
  const d1 = v128.load32_splat(wideAt + 20)
  const d2 = v128.load32_splat(wideAt + 24)
  const d3 = v128.load32_splat(wideAt + 28)
  let all = zero
  for (let i: usize = 0; i < PLANE; i += 16) {
    const v0 = f32x4.sub(v128.load(planes + i), a0)
    const v1 = f32x4.sub(v128.load(planes + PLANE + i), a1)
    const v2 = f32x4.sub(v128.load(planes + 2 * PLANE + i), a2)
    const v3 = f32x4.sub(v128.load(planes + 3 * PLANE + i), a3)
    let way = zero
    if (colours) way = f32x4.add(f32x4.mul(v0, d0), f32x4.add(f32x4.mul(v1, d1), f32x4.mul(v2, d2)))
    if (alpha) way = f32x4.add(way, f32x4.mul(v3, d3))
    const lower = f32x4.floor(f32x4.pmin(LAST, f32x4.pmax(zero, f32x4.mul(way, scale))))
    const upper = f32x4.pmin(LAST, f32x4.add(lower, one))
    const w0 = f32x4.floor(f32x4.add(f32x4.mul(lower, weight), half))
    const w1 = f32x4.floor(f32x4.add(f32x4.mul(upper, weight), half))
    let e0 = zero
    let e1 = zero
    if (colours) {
      e0 = f32x4.add(squareOff(w0, d0, v0), f32x4.add(squareOff(w0, d1, v1), squareOff(w0, d2, v2)))
      e1 = f32x4.add(squareOff(w1, d0, v0), f32x4.add(squareOff(w1, d1, v1), squareOff(w1, d2, v2)))
    }
    if (alpha) {
      e0 = f32x4.add(e0, squareOff(w0, d3, v3))
      e1 = f32x4.add(e1, squareOff(w1, d3, v3))
    }
    v128.store(fit + INDICES + i, v128.bitselect(upper, lower, f32x4.lt(e1, e0)))
    all = f32x4.add(all, f32x4.mul(v128.load(counted + i), f32x4.pmin(e0, e1)))
  }
  const error = sum(all)
  store<f32>(fit + ERROR, error)
  return error
}

/** Takes the trial where it is nearer than a fit. */
function take(fit: usize): bool {
  if (load<f32>(trialAt + ERROR) >= load<f32>(fit + ERROR)) return false
  memory.copy(fit, trialAt, FIT)
  return true
}

/** Looks at the wanted ends, with all lowest bits or those that come nearest. */
function look(fit: usize, counted: usize): bool {
  const ways = lowestBits == 1 ? 4 : lowestBits == 2 ? 2 : 1
  let better = false
  let closest: f32 = Infinity
  let chosen: i32 = 0
  for (let p: i32 = 0; p < ways; p++) {
    const off = roundEnds(trialAt, p & 1, lowestBits == 1 ? p >> 1 : p & 1)
    if (allLowest) {
      assign(trialAt, counted)
      if (take(fit)) better = true
    } else if (off < closest) {
      closest = off
      chosen = p
    }
  }
  if (allLowest) return better
  roundEnds(trialAt, chosen & 1, lowestBits == 1 ? chosen >> 1 : chosen & 1)
  assign(trialAt, counted)
  return take(fit)
}

/** Wants the ends that fit the texels best at a fit's indices; false where those do not tell. */
function leastSquares(fit: usize, counted: usize): bool {
  const weight = f32x4.splat(<f32>64 / last)
  const part = f32x4.splat(<f32>1 / <f32>64)
  const half = f32x4.splat(0.5)
  const one = f32x4.splat(1)
  let aa = f32x4.splat(0)
  let ab = aa
  let bb = aa
  for (let i: usize = 0; i < PLANE; i += 16) {
    const n = v128.load(counted + i)
    const b = f32x4.mul(f32x4.floor(f32x4.add(f32x4.mul(v128.load(fit + INDICES + i), weight), half)), part)
    const a = f32x4.sub(one, b)
    aa = f32x4.add(aa, f32x4.mul(n, f32x4.mul(a, a)))
    ab = f32x4.add(ab, f32x4.mul(n, f32x4.mul(a, b)))
    bb = f32x4.add(bb, f32x4.mul(n, f32x4.mul(b, b)))
  }
  const AA = sum(aa)
  const AB = sum(ab)
  const BB = sum(bb)
  const det = AA * BB - AB * AB
  if (det < 0.001) return false
  for (let c = first; c < end; c++) {
    let av = f32x4.splat(0)
    let bv = av
    for (let i: usize = 0; i < PLANE; i += 16) {
      const v = f32x4.mul(v128.load(counted + i), v128.load(planes + <usize>c * PLANE + i))
      const b = f32x4.mul(f32x4.floor(f32x4.add(f32x4.mul(v128.load(fit + INDICES + i), weight), half)), part)
      av = f32x4.add(av, f32x4.mul(f32x4.sub(one, b), v))
      bv = f32x4.add(bv, f32x4.mul(b, v))
    }
    const AV = sum(av)
    const BV = sum(bv)
    const at = wantedAt + ((<usize>c) << 2)
    store<f32>(at, within((AV * BB - BV * AB) / det))
    store<f32>(at + 16, within((BV * AA - AV * AB) / det))
  }
  return true
}

/** Fits ends and indices to the texels that count; how far off they are. */
export function fitLine(fit: usize, counted: usize): f32 {
  store<f32>(fit + ERROR, Infinity)
  if (end - first == 1) {
    const plane = planes + <usize>first * PLANE
    let low: f32 = 255
    let high: f32 = 0
    for (let i: usize = 0; i < 16; i++) {
      const v = load<f32>(plane + (i << 2))
      low = min(low, v)
      high = max(high, v)
    }
    store<f32>(wantedAt + ((<usize>first) << 2), low)
    store<f32>(wantedAt + 16 + ((<usize>first) << 2), high)
  } else lineThrough(planes, counted, end, wantedAt)
  look(fit, counted)
  for (let i: i32 = 0; i < rounds && load<f32>(fit + ERROR) > 0; i++) {
    if (!leastSquares(fit, counted)) break
    if (!look(fit, counted)) break
  }
  return load<f32>(fit + ERROR)
}

/** Moves ends by a step while that makes a fit nearer. */
export function climb(fit: usize, counted: usize, climbs: i32): void {
  for (let n: i32 = 0; n < climbs && load<f32>(fit + ERROR) > 0; n++) {
    let better = false
    for (let c = first; c < end; c++) {
      const top = (1 << bitsOf(c)) - 1
      const at = (<usize>c) << 2
      // One end, the other, both the same way, both apart.
      for (let way: i32 = 0; way < 8; way++) {
        const step = way & 1 ? 1 : -1
        const kind = way >> 1
        memory.copy(trialAt, fit, FIT)
        const p = load<i32>(trialAt + at) + (kind == 1 ? 0 : step)
        const q = load<i32>(trialAt + at + 16) + (kind == 0 ? 0 : kind == 3 ? -step : step)
        if (p < 0 || q < 0 || p > top || q > top) continue
        store<i32>(trialAt + at, p)
        store<i32>(trialAt + at + 16, q)
        assign(trialAt, counted)
        if (take(fit)) better = true
      }
    }
    if (!better) break
  }
}
