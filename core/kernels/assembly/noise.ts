import { hashInto, hashNumber } from './random'

/**
 * Twin of one octave of fractalNoise (core/kernels/noise.ts): adds it to a row of `width` texels, a multiple of 4. `columns` is
 * the lattice column of each texel, `along` and `fade` its place there and the fade of it; `corners` holds for each column
 * a, b, da and db, from which the noise is a·x + b + fade·(da·x + db). What is added is amplitude · (lift + sign · |n|), or
 * amplitude · n where `sign` is 0.
 */
export function noiseOctave(
  sum: usize,
  columns: usize,
  along: usize,
  fade: usize,
  corners: usize,
  width: i32,
  amplitude: f32,
  lift: f32,
  sign: f32,
): void {
  const end = (<usize>width) << 2
  const strength = f32x4.splat(amplitude)
  const plain = sign == 0
  for (let x: usize = 0; x < end; x += 16) {
    const c0 = v128.load(corners + ((<usize>load<i32>(columns + x)) << 4))
    const c1 = v128.load(corners + ((<usize>load<i32>(columns + x, 4)) << 4))
    const c2 = v128.load(corners + ((<usize>load<i32>(columns + x, 8)) << 4))
    const c3 = v128.load(corners + ((<usize>load<i32>(columns + x, 12)) << 4))
    // Four columns' corners, one of each for four texels.
    const ab01 = v128.shuffle<f32>(c0, c1, 0, 4, 1, 5)
    const ab23 = v128.shuffle<f32>(c2, c3, 0, 4, 1, 5)
    const dd01 = v128.shuffle<f32>(c0, c1, 2, 6, 3, 7)
    const dd23 = v128.shuffle<f32>(c2, c3, 2, 6, 3, 7)
    const a = v128.shuffle<f32>(ab01, ab23, 0, 1, 4, 5)
    const b = v128.shuffle<f32>(ab01, ab23, 2, 3, 6, 7)
    const da = v128.shuffle<f32>(dd01, dd23, 0, 1, 4, 5)
    const db = v128.shuffle<f32>(dd01, dd23, 2, 3, 6, 7)
    const fx = v128.load(along + x)
    const n = f32x4.add(
      f32x4.add(f32x4.mul(a, fx), b),
      f32x4.mul(v128.load(fade + x), f32x4.add(f32x4.mul(da, fx), db)),
    )
    const styled = plain ? n : f32x4.add(f32x4.splat(lift), f32x4.mul(f32x4.splat(sign), f32x4.abs(n)))
    v128.store(sum + x, f32x4.add(v128.load(sum + x), f32x4.mul(strength, styled)))
  }
}

/**
 * Twin of corner (core/kernels/noise.ts) for `count` lattice columns, rounded up to a multiple of 4, of one plane of the
 * lattice: adds weight times what the column's two corners give to `a` and `b`. `near` and `far` are the hashes of the
 * lattice's rows; `fy` and `fz` the place in the cell, `v` the fade between the rows, `u` 1 − v.
 */
export function noiseCorners(
  a: usize,
  b: usize,
  count: i32,
  near: i32,
  far: i32,
  even: bool,
  fy: f32,
  fy1: f32,
  fz: f32,
  u: f32,
  v: f32,
  weight: f32,
): void {
  const nearRow = i32x4.splat(near)
  const farRow = i32x4.splat(far)
  const strength = f32x4.splat(weight)
  const up = f32x4.splat(u)
  const down = f32x4.splat(v)
  let column = i32x4(0, 1, 2, 3)
  for (let at: usize = 0; at < (<usize>count) << 2; at += 16) {
    const g0 = gradientOf(hashInto(nearRow, column), even)
    const g1 = gradientOf(hashInto(farRow, column), even)
    const across = f32x4.add(f32x4.mul(up, gx(g0)), f32x4.mul(down, gx(g1)))
    v128.store(a + at, f32x4.add(v128.load(a + at), f32x4.mul(strength, across)))
    const low = f32x4.add(f32x4.mul(gy(g0), f32x4.splat(fy)), f32x4.mul(gz(g0), f32x4.splat(fz)))
    const high = f32x4.add(f32x4.mul(gy(g1), f32x4.splat(fy1)), f32x4.mul(gz(g1), f32x4.splat(fz)))
    const along = f32x4.add(f32x4.mul(up, low), f32x4.mul(down, high))
    v128.store(b + at, f32x4.add(v128.load(b + at), f32x4.mul(strength, along)))
    column = i32x4.add(column, i32x4.splat(4))
  }
}

/** Puts a and b of `count` columns, and how they change to the next column's, side by side for noiseOctave. */
export function noiseSlopes(a: usize, b: usize, count: i32, corners: usize): void {
  const end = (<usize>count) << 2
  // After the last column comes the first.
  store<f32>(a + end, load<f32>(a))
  store<f32>(b + end, load<f32>(b))
  for (let at: usize = 0; at < end; at += 16) {
    const a0 = v128.load(a + at)
    const b0 = v128.load(b + at)
    const a1 = v128.load(a + at, 4)
    const da = f32x4.sub(a1, a0)
    const db = f32x4.sub(f32x4.sub(v128.load(b + at, 4), a1), b0)
    const to = corners + (at << 2)
    const ab01 = v128.shuffle<f32>(a0, b0, 0, 4, 1, 5)
    const ab23 = v128.shuffle<f32>(a0, b0, 2, 6, 3, 7)
    const dd01 = v128.shuffle<f32>(da, db, 0, 4, 1, 5)
    const dd23 = v128.shuffle<f32>(da, db, 2, 6, 3, 7)
    v128.store(to, v128.shuffle<f32>(ab01, dd01, 0, 1, 4, 5))
    v128.store(to, v128.shuffle<f32>(ab01, dd01, 2, 3, 6, 7), 16)
    v128.store(to, v128.shuffle<f32>(ab23, dd23, 0, 1, 4, 5), 32)
    v128.store(to, v128.shuffle<f32>(ab23, dd23, 2, 3, 6, 7), 48)
  }
}

/** The gradient that a hash picks: hash · 12 / 2³², or its top four bits. */
function gradientOf(hash: v128, even: bool): v128 {
  if (!even) return i32x4.shr_u(hash, 28)
  const twelve = i32x4.splat(12)
  const low = i64x2.extmul_low_i32x4_u(hash, twelve)
  const high = i64x2.extmul_high_i32x4_u(hash, twelve)
  return v128.shuffle<i32>(low, high, 1, 3, 5, 7)
}

/** One of sixteen bytes, −1, 0 or 1, as a number, for each lane. */
function picked(table: v128, gradient: v128): v128 {
  return f32x4.convert_i32x4_s(i32x4.shr_s(i32x4.shl(i8x16.swizzle(table, gradient), 24), 24))
}

function gx(gradient: v128): v128 {
  return picked(i8x16(1, -1, 1, -1, 1, -1, 1, -1, 0, 0, 0, 0, 1, 0, -1, 0), gradient)
}

function gy(gradient: v128): v128 {
  return picked(i8x16(1, 1, -1, -1, 0, 0, 0, 0, 1, -1, 1, -1, 1, -1, 1, -1), gradient)
}

function gz(gradient: v128): v128 {
  return picked(i8x16(0, 0, 0, 0, 1, 1, -1, -1, 1, 1, -1, -1, 0, 1, 0, -1), gradient)
}

/** Bytes of an octave's plan: 12 words, 3 for each of its two planes of the lattice, and its sign. */
const PLAN: usize = 76

/**
 * Twin of a row of fractalNoise (core/kernels/noise.ts): the sum of octaves, scaled where `isLast` says that no more are to come.
 * Words of a plan: where its columns, places and fades by texel lie, room for a, b and corners; lattice columns and rows,
 * `even`, amplitude, lift, how many planes; of each of two planes its hash, place and weight; and the sign.
 */
export function noiseRow(
  plans: usize,
  octaves: i32,
  y: i32,
  height: i32,
  sum: usize,
  width: i32,
  scale: f32,
  isLast: bool,
): void {
  memory.fill(sum, 0, (<usize>width) << 2)
  for (let plan = plans; plan < plans + <usize>octaves * PLAN; plan += PLAN) {
    const a = <usize>load<i32>(plan, 12)
    const b = <usize>load<i32>(plan, 16)
    const columns = load<i32>(plan, 24)
    const rows = load<i32>(plan, 28)
    const at = ((<f64>y + 0.5) * <f64>rows) / <f64>height
    const iy = <i32>Math.floor(at)
    const fy = <f32>(at - <f64>iy)
    const v = quinticFade(fy)
    const room = (<usize>(columns + 8)) << 2
    memory.fill(a, 0, room)
    memory.fill(b, 0, room)
    const planes = load<i32>(plan, 44)
    for (let plane = plan + 48; plane < plan + 48 + <usize>planes * 12; plane += 12) {
      const hash = load<i32>(plane)
      noiseCorners(
        a,
        b,
        columns,
        <i32>hashNumber(hash + iy),
        <i32>hashNumber(hash + ((iy + 1) % rows)),
        load<i32>(plan, 32) != 0,
        fy,
        fy - 1,
        load<f32>(plane, 4),
        1 - v,
        v,
        load<f32>(plane, 8),
      )
    }
    const corners = <usize>load<i32>(plan, 20)
    noiseSlopes(a, b, columns, corners)
    noiseOctave(
      sum,
      <usize>load<i32>(plan),
      <usize>load<i32>(plan, 4),
      <usize>load<i32>(plan, 8),
      corners,
      width,
      load<f32>(plan, 36),
      load<f32>(plan, 40),
      load<f32>(plan, 72),
    )
  }
  if (!isLast) return
  const half = f32x4.splat(0.5)
  const whole = f32x4.splat(scale)
  for (let i: usize = 0; i < (<usize>width) << 2; i += 16)
    v128.store(sum + i, f32x4.add(half, f32x4.mul(v128.load(sum + i), whole)))
}

/** Twin of quinticFade. */
function quinticFade(t: f32): f32 {
  return t * t * t * (t * (t * 6 - 15) + 10)
}
