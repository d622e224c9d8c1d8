import { PLANE, texels } from './block-texels'

/*
 * Which partitions of BC7 suit the texels of a block: those whose subsets lie nearest to a line each, four partitions at a time.
 */

/** Terms of texels and their sums over subsets, what is left of each partition, and the texels of subsets as bits. */
let termsAt: usize = 0
let restsAt: usize = 0
let sumsAt: usize = 0
let bitsAt: usize = 0
/** Bytes that are worked in. */
export const PARTITIONS: usize = 16 * 64 + 64 * 4 + 64 + 3 * 256

/** Sets where the texels of the second and third subset of each partition are told as bits, eight bytes each, and PARTITIONS bytes to work in. */
export function partitionsAt(bits: usize, work: usize): void {
  bitsAt = bits
  termsAt = work
  restsAt = termsAt + 16 * 64
  sumsAt = restsAt + 64 * 4
}

/** Sums of channels and of their products: R G B A, RR RG RB RA, GG GB GA BB, BA AA. Four vectors a texel. */
export function setTerms(): void {
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
export function setRests(subsets: i32): void {
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

/** The partition that is nearest to lines; it is taken out. */
export function nextPartition(partitions: i32): i32 {
  let found: i32 = 0
  for (let p: i32 = 1; p < partitions; p++)
    if (load<f32>(restsAt + ((<usize>p) << 2)) < load<f32>(restsAt + ((<usize>found) << 2))) found = p
  store<f32>(restsAt + ((<usize>found) << 2), Infinity)
  return found
}
