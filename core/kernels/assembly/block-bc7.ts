import { PLANE, lineThrough, readBlock, sum, texels, within, workAt } from './block-texels'

/*
 * Texels of blocks as BC7, in any of its eight modes. Source of the layout: Khronos Data Format Specification 1.3, chapter 20; the search is
 * our own: ends along the line that the texels of a subset lie on, least squares over the indices, all lowest bits, then steps of
 * single ends; subsets are those whose texels lie nearest to lines.
 */

/** A fit: ends in the mode's bits without the lowest (four of the first, four of the second), both lowest bits, sixteen indices, error. */
const LOWEST: usize = 32
const INDICES: usize = 40
const ERROR: usize = 104
const FIT: usize = 112
/** A candidate: its mode, partition, rotation and which of its sets of indices is whose, its error, and three fits. */
const PARTITION: usize = 4
const ROTATION: usize = 8
const SELECTION: usize = 12
const SCORE: usize = 16
const FITS: usize = 32
const CANDIDATE: usize = FITS + 3 * FIT
/** Of each mode: subsets, bits of partition, rotation, selection, colour, alpha, each lowest bit, a shared one, indices, second indices. */
const MODE: usize = 40

let modesAt: usize = 0
/** For each partition of two, then of three subsets: the subset of each texel; then the anchor of each subset, in a byte each. */
let subsetsAt: usize = 0
/** Masks of the subsets of the partition at hand, sixteen numbers each, and of all texels. */
let masksAt: usize = 0
let allAt: usize = 0
/** Ends wanted and ends as they are decoded, four numbers of the first, then of the second. */
let wantedAt: usize = 0
let wideAt: usize = 0
let trialAt: usize = 0
let attemptAt: usize = 0
let winnerAt: usize = 0
/** The texels with two channels changed, and terms of subsets. */
let turnedAt: usize = 0
let termsAt: usize = 0
let restsAt: usize = 0
let sumsAt: usize = 0
let bitsAt: usize = 0

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

/** Memory that `encodeBc7` works in. */
export const BC7_WORK: usize = 16384

function modeAt(mode: i32, field: usize): i32 {
  return load<i32>(modesAt + <usize>mode * MODE + (field << 2))
}

function setForm(mode: i32, from: i32, to: i32, indexBits: i32): void {
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
function fitLine(fit: usize, counted: usize): f32 {
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
function climb(fit: usize, counted: usize, climbs: i32): void {
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

function begin(mode: i32, partition: i32, rotation: i32, selection: i32): void {
  store<i32>(attemptAt, mode)
  store<i32>(attemptAt + PARTITION, partition)
  store<i32>(attemptAt + ROTATION, rotation)
  store<i32>(attemptAt + SELECTION, selection)
}

function keep(error: f32): void {
  if (error >= load<f32>(winnerAt + SCORE)) return
  memory.copy(winnerAt, attemptAt, CANDIDATE)
  store<f32>(winnerAt + SCORE, error)
}

/** Masks of the subsets of a partition. */
function setMasks(subsets: i32, partition: i32): void {
  const owners = subsetsAt + <usize>(subsets == 3 ? 64 : 0) * 16 + <usize>partition * 16
  for (let i: usize = 0; i < 16; i++) {
    const own = <i32>load<u8>(owners + i)
    for (let s: i32 = 0; s < subsets; s++) store<f32>(masksAt + <usize>s * PLANE + (i << 2), own == s ? 1 : 0)
  }
}

/** All texels along one line each of some subsets. */
function tryPartition(mode: i32, partition: i32): void {
  const subsets = modeAt(mode, 0)
  begin(mode, partition, 0, 0)
  if (subsets > 1) setMasks(subsets, partition)
  setForm(mode, 0, modeAt(mode, 5) ? 4 : 3, modeAt(mode, 8))
  planes = texels
  let error: f32 = 0
  for (let s: i32 = 0; s < subsets; s++) {
    error += fitLine(attemptAt + FITS + <usize>s * FIT, subsets > 1 ? masksAt + <usize>s * PLANE : allAt)
    if (error >= load<f32>(winnerAt + SCORE)) return
  }
  keep(error)
}

/** Colour along one line and a channel of its own along another: alpha, or one that changes places with it. */
function tryApart(mode: i32, rotation: i32, selection: i32): void {
  turn(rotation)
  begin(mode, 0, rotation, selection)
  const colours = modeAt(mode, selection ? 9 : 8)
  setForm(mode, 0, 3, colours)
  let error = fitLine(attemptAt + FITS, allAt)
  if (error >= load<f32>(winnerAt + SCORE)) return
  setForm(mode, 3, 4, modeAt(mode, selection ? 8 : 9))
  error += fitLine(attemptAt + FITS + FIT, allAt)
  keep(error)
}

/** Sets the texels at hand to those with a channel and alpha changed. */
function turn(rotation: i32): void {
  planes = texels
  if (rotation == 0) return
  memory.copy(turnedAt, texels, 4 * PLANE)
  const other = <usize>(rotation - 1) * PLANE
  memory.copy(turnedAt + other, texels + 3 * PLANE, PLANE)
  memory.copy(turnedAt + 3 * PLANE, texels + other, PLANE)
  planes = turnedAt
}

/** Sums of channels and of their products: R G B A, RR RG RB RA, GG GB GA BB, BA AA. Four vectors a texel. */
function setTerms(): void {
  for (let i: usize = 0; i < 16; i++) {
    const at = termsAt + i * 64
    const r = load<f32>(texels + (i << 2))
    const g = load<f32>(texels + PLANE + (i << 2))
    const b = load<f32>(texels + 2 * PLANE + (i << 2))
    const a = load<f32>(texels + 3 * PLANE + (i << 2))
    store<f32>(at, r)
    store<f32>(at + 4, g)
    store<f32>(at + 8, b)
    store<f32>(at + 12, a)
    v128.store(at + 16, f32x4.mul(f32x4.splat(r), v128.load(at)))
    store<f32>(at + 32, g * g)
    store<f32>(at + 36, g * b)
    store<f32>(at + 40, g * a)
    store<f32>(at + 44, b * b)
    store<f32>(at + 48, b * a)
    store<f32>(at + 52, a * a)
    store<f32>(at + 56, 1)
    store<f32>(at + 60, 0)
  }
}

/** A term of four partitions' sums, those being 64 bytes apart. */
function termOf(sums: usize, term: usize): v128 {
  const at = sums + (term << 2)
  const a = v128.load32_zero(at)
  const b = v128.load32_lane(at + 64, a, 1)
  const c = v128.load32_lane(at + 128, b, 2)
  return v128.load32_lane(at + 192, c, 3)
}

function without(products: v128, a: v128, b: v128, over: v128): v128 {
  return f32x4.sub(products, f32x4.mul(f32x4.mul(a, b), over))
}

function along(a: v128, x: v128, b: v128, y: v128, c: v128, z: v128, d: v128, w: v128): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(a, x), f32x4.mul(b, y)), f32x4.add(f32x4.mul(c, z), f32x4.mul(d, w)))
}

/** What is left of the scatter of texels once their line is taken away, of four sums of terms: a subset of four partitions. */
function offLines(sums: usize): v128 {
  const zero = f32x4.splat(0)
  const r = termOf(sums, 0)
  const g = termOf(sums, 1)
  const b = termOf(sums, 2)
  const a = termOf(sums, 3)
  const over = f32x4.div(f32x4.splat(1), f32x4.max(f32x4.splat(1), termOf(sums, 14)))
  const xx = without(termOf(sums, 4), r, r, over)
  const xy = without(termOf(sums, 5), r, g, over)
  const xz = without(termOf(sums, 6), r, b, over)
  const xw = without(termOf(sums, 7), r, a, over)
  const yy = without(termOf(sums, 8), g, g, over)
  const yz = without(termOf(sums, 9), g, b, over)
  const yw = without(termOf(sums, 10), g, a, over)
  const zz = without(termOf(sums, 11), b, b, over)
  const zw = without(termOf(sums, 12), b, a, over)
  const ww = without(termOf(sums, 13), a, a, over)
  const trace = f32x4.add(f32x4.add(xx, yy), f32x4.add(zz, ww))
  // Begins with the row of the channel that varies most, which is not across the line.
  const most = f32x4.pmax(f32x4.pmax(xx, yy), f32x4.pmax(zz, ww))
  const isX = f32x4.eq(most, xx)
  const isY = f32x4.eq(most, yy)
  const isZ = f32x4.eq(most, zz)
  let ax = v128.bitselect(xx, v128.bitselect(xy, v128.bitselect(xz, xw, isZ), isY), isX)
  let ay = v128.bitselect(xy, v128.bitselect(yy, v128.bitselect(yz, yw, isZ), isY), isX)
  let az = v128.bitselect(xz, v128.bitselect(yz, v128.bitselect(zz, zw, isZ), isY), isX)
  let aw = v128.bitselect(xw, v128.bitselect(yw, v128.bitselect(zw, ww, isZ), isY), isX)
  let longest = zero
  for (let round: i32 = 0; round < 3; round++) {
    const square = along(ax, ax, ay, ay, az, az, aw, aw)
    const scale = f32x4.div(f32x4.splat(1), f32x4.sqrt(f32x4.max(f32x4.splat(1e-20), square)))
    ax = f32x4.mul(ax, scale)
    ay = f32x4.mul(ay, scale)
    az = f32x4.mul(az, scale)
    aw = f32x4.mul(aw, scale)
    const nx = along(xx, ax, xy, ay, xz, az, xw, aw)
    const ny = along(xy, ax, yy, ay, yz, az, yw, aw)
    const nz = along(xz, ax, yz, ay, zz, az, zw, aw)
    const nw = along(xw, ax, yw, ay, zw, az, ww, aw)
    longest = along(nx, ax, ny, ay, nz, az, nw, aw)
    ax = nx
    ay = ny
    az = nz
    aw = nw
  }
  return f32x4.max(zero, f32x4.sub(trace, longest))
}

/** Adds the terms of the texels whose bits are set, at `to`, and takes them from what is at `from`. */
function sumTerms(bits: u32, to: usize, from: usize): void {
  let a = f32x4.splat(0)
  let b = a
  let c = a
  let d = a
  for (; bits; bits &= bits - 1) {
    const at = termsAt + ((<usize>ctz(bits)) << 6)
    a = f32x4.add(a, v128.load(at))
    b = f32x4.add(b, v128.load(at + 16))
    c = f32x4.add(c, v128.load(at + 32))
    d = f32x4.add(d, v128.load(at + 48))
  }
  v128.store(to, a)
  v128.store(to + 16, b)
  v128.store(to + 32, c)
  v128.store(to + 48, d)
  v128.store(from, f32x4.sub(v128.load(from), a))
  v128.store(from + 16, f32x4.sub(v128.load(from + 16), b))
  v128.store(from + 32, f32x4.sub(v128.load(from + 32), c))
  v128.store(from + 48, f32x4.sub(v128.load(from + 48), d))
}

/** How far texels lie off the lines of each partition's subsets: a number each at `restsAt`, four partitions at a time. */
function setRests(subsets: i32): void {
  // Of all texels, then of each subset of four partitions.
  const first = sumsAt + 64
  sumTerms(0xffff, sumsAt, first)
  for (let p: i32 = 0; p < 64; p += 4) {
    for (let k: i32 = 0; k < 4; k++) {
      const bits = bitsAt + <usize>((subsets == 3 ? 64 : 0) + p + k) * 8
      const to = first + ((<usize>k) << 6)
      memory.copy(to, sumsAt, 64)
      sumTerms(load<u32>(bits), to + 256, to)
      if (subsets == 3) sumTerms(load<u32>(bits + 4), to + 512, to)
    }
    let rest = f32x4.splat(0)
    for (let s: i32 = 0; s < subsets; s++) rest = f32x4.add(rest, offLines(first + ((<usize>s) << 8)))
    v128.store(restsAt + ((<usize>p) << 2), rest)
  }
}

/** The texels of the second and third subset of each partition as bits. */
function setBits(): void {
  for (let p: usize = 0; p < 128; p++)
    for (let s: i32 = 1; s < 3; s++) {
      let bits: u32 = 0
      for (let i: usize = 0; i < 16; i++) if (<i32>load<u8>(subsetsAt + p * 16 + i) == s) bits |= 1 << (<u32>i)
      store<u32>(bitsAt + p * 8 + <usize>((s - 1) << 2), bits)
    }
}

/** The partition that is nearest to lines; it is taken out. */
function nextPartition(partitions: i32): i32 {
  let found: i32 = 0
  for (let p: i32 = 1; p < partitions; p++)
    if (load<f32>(restsAt + ((<usize>p) << 2)) < load<f32>(restsAt + ((<usize>found) << 2))) found = p
  store<f32>(restsAt + ((<usize>found) << 2), Infinity)
  return found
}

/** Looks for the nearest block. `effort`: 0 is quick, 1 usual, 2 the best. */
function search(effort: i32): void {
  store<f32>(winnerAt + SCORE, Infinity)
  const full = f32x4.splat(255)
  let opaque = true
  for (let i: usize = 0; i < PLANE; i += 16)
    if (v128.any_true(f32x4.ne(v128.load(texels + 3 * PLANE + i), full))) opaque = false
  rounds = effort == 0 ? 1 : effort == 1 ? 2 : 4
  allLowest = effort > 0
  tryPartition(6, 0)
  if (load<f32>(winnerAt + SCORE) == 0) return
  if (!opaque || effort > 0) {
    const turns = effort == 2 || (effort == 1 && !opaque) ? 4 : 1
    if (!opaque || effort == 2)
      for (let rotation: i32 = 0; rotation < turns; rotation++) {
        tryApart(5, rotation, 0)
        if (effort == 0) continue
        tryApart(4, rotation, 0)
        tryApart(4, rotation, 1)
      }
  }
  // What is this near already is left at that, unless it is to be the best.
  const enough: f32 = effort == 1 ? 12 : 0
  if (effort == 0 || load<f32>(winnerAt + SCORE) <= enough) return
  setTerms()
  allLowest = effort == 2
  setRests(2)
  const pairs = effort == 1 ? 4 : 24
  for (let n: i32 = 0; n < pairs && load<f32>(winnerAt + SCORE) > enough; n++) {
    const partition = nextPartition(64)
    if (opaque) {
      tryPartition(1, partition)
      if (effort == 2 || n < 2) tryPartition(3, partition)
    } else tryPartition(7, partition)
  }
  if (!opaque || load<f32>(winnerAt + SCORE) <= enough * 4) return
  setRests(3)
  const triples = effort == 1 ? 1 : 12
  for (let n: i32 = 0; n < triples && load<f32>(winnerAt + SCORE) > enough; n++) {
    const partition = nextPartition(64)
    tryPartition(2, partition)
    if (partition < 16) tryPartition(0, partition)
  }
}

/** Moves the ends of the nearest block while that makes it nearer. */
function polish(climbs: i32): void {
  const mode = load<i32>(winnerAt)
  const subsets = modeAt(mode, 0)
  if (modeAt(mode, 9)) {
    turn(load<i32>(winnerAt + ROTATION))
    const selection = load<i32>(winnerAt + SELECTION)
    setForm(mode, 0, 3, modeAt(mode, selection ? 9 : 8))
    climb(winnerAt + FITS, allAt, climbs)
    setForm(mode, 3, 4, modeAt(mode, selection ? 8 : 9))
    climb(winnerAt + FITS + FIT, allAt, climbs)
    return
  }
  planes = texels
  if (subsets > 1) setMasks(subsets, load<i32>(winnerAt + PARTITION))
  setForm(mode, 0, modeAt(mode, 5) ? 4 : 3, modeAt(mode, 8))
  for (let s: i32 = 0; s < subsets; s++)
    climb(winnerAt + FITS + <usize>s * FIT, subsets > 1 ? masksAt + <usize>s * PLANE : allAt, climbs)
}

/** The block being written, from its lowest bit on. */
let low: u64 = 0
let high: u64 = 0
let place: u64 = 0

function put(value: u32, count: i32): void {
  const v = <u64>value
  if (place < 64) {
    low |= v << place
    if (place + <u64>count > 64) high |= v >> (64 - place)
  } else high |= v << (place - 64)
  place += <u64>count
}

/** An anchor's index has its highest bit left out: where it is set, the ends change places. */
function settle(fit: usize, anchor: i32, bits: i32): void {
  const top: f32 = <f32>((1 << bits) - 1)
  if (load<f32>(fit + INDICES + ((<usize>anchor) << 2)) * 2 < top) return
  const ends = v128.load(fit)
  v128.store(fit, v128.load(fit + 16))
  v128.store(fit + 16, ends)
  const p = load<i32>(fit + LOWEST)
  store<i32>(fit + LOWEST, load<i32>(fit + LOWEST + 4))
  store<i32>(fit + LOWEST + 4, p)
  for (let i: usize = 0; i < PLANE; i += 16)
    v128.store(fit + INDICES + i, f32x4.sub(f32x4.splat(top), v128.load(fit + INDICES + i)))
}

function putIndices(fit: usize, bits: i32): void {
  for (let i: usize = 0; i < 16; i++) put(<u32>load<f32>(fit + INDICES + (i << 2)), i == 0 ? bits - 1 : bits)
}

function write(out: usize): void {
  const mode = load<i32>(winnerAt)
  const partition = load<i32>(winnerAt + PARTITION)
  const selection = load<i32>(winnerAt + SELECTION)
  const subsets = modeAt(mode, 0)
  const indexBits = modeAt(mode, 8)
  const secondBits = modeAt(mode, 9)
  const fits = winnerAt + FITS
  const owners = subsetsAt + <usize>((subsets == 3 ? 64 : 0) + partition) * 16
  const anchors = subsetsAt + 128 * 16 + <usize>((subsets == 3 ? 64 : 0) + partition) * 4
  low = 0
  high = 0
  place = 0
  put(1 << mode, mode + 1)
  put(partition, modeAt(mode, 1))
  put(load<i32>(winnerAt + ROTATION), modeAt(mode, 2))
  put(selection, modeAt(mode, 3))
  if (secondBits) {
    settle(fits, 0, selection ? secondBits : indexBits)
    settle(fits + FIT, 0, selection ? indexBits : secondBits)
  } else
    for (let s: i32 = 0; s < subsets; s++)
      settle(fits + <usize>s * FIT, subsets > 1 ? <i32>load<u8>(anchors + <usize>s) : 0, indexBits)
  for (let c: i32 = 0; c < 4; c++) {
    const bits = c == 3 ? modeAt(mode, 5) : modeAt(mode, 4)
    if (bits == 0) continue
    for (let s: i32 = 0; s < subsets; s++) {
      const fit = fits + <usize>(secondBits && c == 3 ? 1 : s) * FIT + ((<usize>c) << 2)
      put(load<i32>(fit), bits)
      put(load<i32>(fit + 16), bits)
    }
  }
  for (let s: i32 = 0; s < subsets; s++) {
    const fit = fits + <usize>s * FIT + LOWEST
    if (modeAt(mode, 6)) {
      put(load<i32>(fit), 1)
      put(load<i32>(fit + 4), 1)
    } else if (modeAt(mode, 7)) put(load<i32>(fit), 1)
  }
  if (secondBits) {
    putIndices(selection ? fits + FIT : fits, indexBits)
    putIndices(selection ? fits : fits + FIT, secondBits)
  } else
    for (let i: i32 = 0; i < 16; i++) {
      const s = subsets > 1 ? <i32>load<u8>(owners + <usize>i) : 0
      const anchor = subsets > 1 ? <i32>load<u8>(anchors + <usize>s) : 0
      put(<u32>load<f32>(fits + <usize>s * FIT + INDICES + ((<usize>i) << 2)), anchor == i ? indexBits - 1 : indexBits)
    }
  store<u64>(out, low)
  store<u64>(out + 8, high)
}

/**
 * Rows of RGBA bytes as blocks of BC7. `modes`: ten whole numbers for each of the eight modes. `subsets`: the subset of each texel for 64
 * partitions of two and 64 of three subsets, a byte each; then for each of those the anchors of its subsets, four bytes each. `work` holds
 * BC7_WORK bytes. `effort` is 0, 1 or 2.
 */
export function encodeBc7(
  rgba: usize,
  width: i32,
  rows: i32,
  effort: i32,
  modes: usize,
  subsets: usize,
  work: usize,
  out: usize,
): void {
  workAt(work)
  modesAt = modes
  subsetsAt = subsets
  masksAt = work + 640
  allAt = masksAt + 3 * PLANE
  wantedAt = allAt + PLANE
  wideAt = wantedAt + 32
  trialAt = wideAt + 32
  attemptAt = trialAt + FIT
  winnerAt = attemptAt + CANDIDATE
  turnedAt = winnerAt + CANDIDATE
  termsAt = turnedAt + 4 * PLANE
  restsAt = termsAt + 16 * 64
  sumsAt = restsAt + 64 * 4
  bitsAt = sumsAt + 64 + 3 * 256
  setBits()
  for (let i: usize = 0; i < PLANE; i += 16) v128.store(allAt + i, f32x4.splat(1))
  for (let by: i32 = 0; by * 4 < rows; by++)
    for (let bx: i32 = 0; bx * 4 < width; bx++) {
      readBlock(rgba, width, rows, bx, by)
      search(effort)
      if (effort == 2) polish(8)
      write(out)
      out += 16
    }
}
