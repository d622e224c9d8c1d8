import { PLANE, lineThrough, readBlock, sum, texels, within, workAt } from './block-texels'
import { greyBlock } from './block-grey'

/*
 * Colours of blocks as BC1, in its form of four tones, and as the second half of BC3.
 * Source: Khronos Data Format Specification 1.3, chapters 18.1 and 18.3; ends along the line that the texels lie on, then by least squares
 * over the indices, then step by step.
 */

/** Both ends in 5, 6 and 5 bits (six whole numbers), the best so far, the ends wanted (eight numbers), and indices of texels as numbers. */
let endsAt: usize = 0
let bestAt: usize = 0
let wantedAt: usize = 0
let indicesAt: usize = 0
let bestIndicesAt: usize = 0
let allAt: usize = 0
/** For each tone of 0–255 the ends whose second tone of four is nearest to it: first end, second end, of 5 bits, then of 6. */
let flatAt: usize = 0

function colourWorkAt(work: usize, flat: usize): void {
  workAt(work)
  endsAt = work + 640
  bestAt = work + 672
  wantedAt = work + 704
  indicesAt = work + 768
  bestIndicesAt = work + 832
  allAt = work + 896
  flatAt = flat
  for (let q: usize = 0; q < PLANE; q += 16) v128.store(allAt + q, f32x4.splat(1))
}

function topOf(c: usize): i32 {
  return c == 1 ? 63 : 31
}

/** An end's channel of 0–255. */
function spread(c: usize, value: i32): f32 {
  return <f32>(c == 1 ? (value << 2) | (value >> 4) : (value << 3) | (value >> 2))
}

/** Finds the nearest tone for each texel; the sum of squares that they are off. */
function assign(): f32 {
  const p0 = spread(0, load<i32>(endsAt))
  const p1 = spread(1, load<i32>(endsAt + 4))
  const p2 = spread(2, load<i32>(endsAt + 8))
  const d0 = spread(0, load<i32>(endsAt + 12)) - p0
  const d1 = spread(1, load<i32>(endsAt + 16)) - p1
  const d2 = spread(2, load<i32>(endsAt + 20)) - p2
  const square = d0 * d0 + d1 * d1 + d2 * d2
  const scale: f32 = square > 0 ? <f32>3 / square : 0
  const P0 = f32x4.splat(p0)
  const P1 = f32x4.splat(p1)
  const P2 = f32x4.splat(p2)
  const D0 = f32x4.splat(d0)
  const D1 = f32x4.splat(d1)
  const D2 = f32x4.splat(d2)
  const zero = f32x4.splat(0)
  const three = f32x4.splat(3)
  const half = f32x4.splat(0.5)
  const S = f32x4.splat(scale)
  const third = f32x4.splat(<f32>1 / <f32>3)
  let all = zero
  for (let q: usize = 0; q < PLANE; q += 16) {
    const x = f32x4.sub(v128.load(texels + q), P0)
    const y = f32x4.sub(v128.load(texels + q + PLANE), P1)
    const z = f32x4.sub(v128.load(texels + q + 2 * PLANE), P2)
    const along = f32x4.mul(f32x4.add(f32x4.mul(x, D0), f32x4.add(f32x4.mul(y, D1), f32x4.mul(z, D2))), S)
    const t = f32x4.floor(f32x4.add(f32x4.pmin(three, f32x4.pmax(zero, along)), half))
    // (3 p + t d + 1) / 3, rounded down, relative to p: whole numbers, a third or more from the next.
    const e0 = f32x4.sub(f32x4.floor(f32x4.mul(f32x4.add(f32x4.mul(t, D0), f32x4.splat(1.25)), third)), x)
    const e1 = f32x4.sub(f32x4.floor(f32x4.mul(f32x4.add(f32x4.mul(t, D1), f32x4.splat(1.25)), third)), y)
    const e2 = f32x4.sub(f32x4.floor(f32x4.mul(f32x4.add(f32x4.mul(t, D2), f32x4.splat(1.25)), third)), z)
    all = f32x4.add(all, f32x4.add(f32x4.mul(e0, e0), f32x4.add(f32x4.mul(e1, e1), f32x4.mul(e2, e2))))
    v128.store(indicesAt + q, t)
  }
  return sum(all)
}

let best: f32 = 0

/** Keeps the ends at hand where they are nearer than the best. */
function look(): bool {
  const error = assign()
  if (error >= best) return false
  best = error
  memory.copy(bestAt, endsAt, 24)
  memory.copy(bestIndicesAt, indicesAt, PLANE)
  return true
}

/** Rounds the wanted ends to bits. */
function round(): void {
  for (let c: usize = 0; c < 3; c++)
    for (let e: usize = 0; e < 2; e++) {
      const top = topOf(c)
      const v = within(load<f32>(wantedAt + (e << 4) + (c << 2)))
      store<i32>(endsAt + e * 12 + (c << 2), <i32>((v * <f32>top) / <f32>255 + <f32>0.5))
    }
}

/** Wants the ends that fit the texels best at the indices found; false where those do not tell. */
function leastSquares(): bool {
  let aa = f32x4.splat(0)
  let ab = f32x4.splat(0)
  let bb = f32x4.splat(0)
  for (let q: usize = 0; q < PLANE; q += 16) {
    const b = f32x4.mul(v128.load(bestIndicesAt + q), f32x4.splat(<f32>1 / <f32>3))
    const a = f32x4.sub(f32x4.splat(1), b)
    aa = f32x4.add(aa, f32x4.mul(a, a))
    ab = f32x4.add(ab, f32x4.mul(a, b))
    bb = f32x4.add(bb, f32x4.mul(b, b))
  }
  const AA = sum(aa)
  const AB = sum(ab)
  const BB = sum(bb)
  const det = AA * BB - AB * AB
  if (det < 0.01) return false
  for (let c: usize = 0; c < 3; c++) {
    let av = f32x4.splat(0)
    let bv = f32x4.splat(0)
    for (let q: usize = 0; q < PLANE; q += 16) {
      const v = v128.load(texels + c * PLANE + q)
      const b = f32x4.mul(v128.load(bestIndicesAt + q), f32x4.splat(<f32>1 / <f32>3))
      av = f32x4.add(av, f32x4.mul(f32x4.sub(f32x4.splat(1), b), v))
      bv = f32x4.add(bv, f32x4.mul(b, v))
    }
    const AV = sum(av)
    const BV = sum(bv)
    store<f32>(wantedAt + (c << 2), (AV * BB - BV * AB) / det)
    store<f32>(wantedAt + 16 + (c << 2), (BV * AA - AV * AB) / det)
  }
  return true
}

/** Looks at the ends with channel `c` of the first moved by `first`, of the second by `second`. */
function lookAt(c: usize, first: i32, second: i32): bool {
  memory.copy(endsAt, bestAt, 24)
  const p = load<i32>(endsAt + (c << 2)) + first
  const q = load<i32>(endsAt + 12 + (c << 2)) + second
  if (p < 0 || q < 0 || p > topOf(c) || q > topOf(c)) return false
  store<i32>(endsAt + (c << 2), p)
  store<i32>(endsAt + 12 + (c << 2), q)
  return look()
}

function climb(): bool {
  let better = false
  for (let c: usize = 0; c < 3; c++)
    for (let step: i32 = -1; step < 2; step += 2) {
      if (lookAt(c, step, 0)) better = true
      if (lookAt(c, 0, step)) better = true
      if (lookAt(c, step, step)) better = true
      if (lookAt(c, step, -step)) better = true
    }
  return better
}

/** Of texels that are all alike: the ends whose second tone comes nearest. */
function lookAtFlat(): void {
  for (let c: usize = 0; c < 3; c++) {
    const tone = <usize>load<f32>(texels + c * PLANE)
    const at = flatAt + (c == 1 ? 512 : 0) + tone * 2
    store<i32>(endsAt + (c << 2), load<u8>(at))
    store<i32>(endsAt + 12 + (c << 2), load<u8>(at + 1))
  }
  look()
}

function isFlat(): bool {
  for (let c: usize = 0; c < 3; c++) {
    const first = v128.load32_splat(texels + c * PLANE)
    for (let q: usize = 0; q < PLANE; q += 16)
      if (v128.any_true(f32x4.ne(v128.load(texels + c * PLANE + q), first))) return false
  }
  return true
}

/** The colours at hand, at `out`, eight bytes. */
function colourBlock(rounds: i32, climbs: i32, out: usize): void {
  best = Infinity
  lineThrough(texels, allAt, 3, wantedAt)
  round()
  look()
  if (best > 0 && isFlat()) lookAtFlat()
  else {
    for (let i: i32 = 0; i < rounds && best > 0; i++) {
      if (!leastSquares()) break
      round()
      if (!look()) break
    }
    for (let i: i32 = 0; i < climbs && best > 0; i++) if (!climb()) break
  }
  let first = word(bestAt)
  let second = word(bestAt + 12)
  // The first end is the larger one: that says that there are four tones. Equal ends have one tone, the first.
  const flip: u32 = first < second ? 3 : 0
  const keep: u32 = first == second ? 0 : 3
  if (flip) {
    const other = first
    first = second
    second = other
  }
  let bits: u32 = 0
  for (let i: u32 = 0; i < 16; i++) {
    // Along the line: 0, 2, 3, 1.
    const along = (<u32>load<f32>(bestIndicesAt + ((<usize>i) << 2))) ^ flip
    const index: u32 = along == 0 ? 0 : along == 3 ? 1 : along + 1
    bits |= (index & keep) << (2 * i)
  }
  store<u16>(out, <u16>first)
  store<u16>(out + 2, <u16>second)
  store<u32>(out + 4, bits)
}

function word(ends: usize): u32 {
  return <u32>((load<i32>(ends) << 11) | (load<i32>(ends + 4) << 5) | load<i32>(ends + 8))
}

/**
 * Rows of RGBA bytes as blocks of BC1, or where `withAlpha` is 1 of BC3: alpha as `encodeGreys` has it, then colours. `flat` holds the ends
 * for flat blocks (1024 bytes), `work` 1 kB. `rounds` of least squares, at most `climbs` of steps; `greyRounds`, `reach`: of alpha.
 */
export function encodeColours(
  rgba: usize,
  width: i32,
  rows: i32,
  withAlpha: i32,
  rounds: i32,
  climbs: i32,
  greyRounds: i32,
  reach: i32,
  flat: usize,
  work: usize,
  out: usize,
): void {
  colourWorkAt(work, flat)
  for (let by: i32 = 0; by * 4 < rows; by++)
    for (let bx: i32 = 0; bx * 4 < width; bx++) {
      readBlock(rgba, width, rows, bx, by)
      if (withAlpha) {
        greyBlock(texels + 3 * PLANE, greyRounds, reach, out)
        out += 8
      }
      colourBlock(rounds, climbs, out)
      out += 8
    }
}
