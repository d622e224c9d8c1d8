/**
 * Puts means of samples into their texels. Samples are in order of their texels (u32); `values` are one f32 each, or three where `y` and
 * `z` are given, NaN in the first of one that has none. Numbers (`isId`) are not mixed: the first sample's counts; directions (`isUnit`)
 * are brought to length 1, and those without become +Y. `known` (u8) becomes 1 at texels with a value. Gives how many have none.
 */
export function meansOfSamples(
  values: usize,
  texels: usize,
  count: i32,
  isId: bool,
  isUnit: bool,
  x: usize,
  y: usize,
  z: usize,
  known: usize,
): i32 {
  const each: usize = y ? 12 : 4
  const end = values + <usize>count * each
  let missed = 0
  for (let at = values; at < end;) {
    if (at + 4 * each < end && isRun(texels) && putRun(at, isUnit, load<u32>(texels), x, y, z, known)) {
      at += 4 * each
      texels += 16
      continue
    }
    const texel = load<u32>(texels)
    let met: f64 = 0
    let a: f64 = 0
    let b: f64 = 0
    let c: f64 = 0
    for (; at < end && load<u32>(texels) == texel; at += each, texels += 4) {
      const first = <f64>load<f32>(at)
      if (first != first) continue
      if (isId && met > 0) continue
      met++
      a += first
      if (!y) continue
      b += <f64>load<f32>(at, 4)
      c += <f64>load<f32>(at, 8)
    }
    if (met == 0) {
      missed++
      continue
    }
    const to = (<usize>texel) << 2
    store<u8>(known + <usize>texel, 1)
    // An only one is its own mean.
    if (met > 1) a = <f64>(<f32>(a / met))
    if (y) {
      if (met > 1) {
        b = <f64>(<f32>(b / met))
        c = <f64>(<f32>(c / met))
      }
      if (isUnit) {
        const length = Math.sqrt(a * a + b * b + c * c)
        a = length > 0 ? a / length : 0
        b = length > 0 ? b / length : 1
        c = length > 0 ? c / length : 0
      }
      store<f32>(y + to, <f32>b)
      store<f32>(z + to, <f32>c)
    }
    store<f32>(x + to, <f32>a)
  }
  return missed
}

/** Whether four samples lie in four texels side by side, and have those for themselves. */
function isRun(texels: usize): bool {
  const beside = i32x4.add(i32x4.splat(load<i32>(texels)), i32x4(0, 1, 2, 3))
  return i32x4.all_true(i32x4.eq(v128.load(texels), beside)) && load<i32>(texels, 16) != load<i32>(texels, 12)
}

/** Puts four values, one a texel, if all of them are known; whether they are. */
function putRun(at: usize, isUnit: bool, texel: u32, x: usize, y: usize, z: usize, known: usize): bool {
  // What is added makes 0 of −0, as a sum does.
  const zero = f32x4.splat(0)
  const to = (<usize>texel) << 2
  const p = v128.load(at)
  if (!y) {
    if (!i32x4.all_true(f32x4.eq(p, p))) return false
    v128.store(x + to, f32x4.add(p, zero))
    store<u32>(known + <usize>texel, 0x01010101)
    return true
  }
  const q = v128.load(at, 16)
  const r = v128.load(at, 32)
  const a = v128.shuffle<i32>(v128.shuffle<i32>(p, q, 0, 3, 6, 0), r, 0, 1, 2, 5)
  if (!i32x4.all_true(f32x4.eq(a, a))) return false
  const b = v128.shuffle<i32>(v128.shuffle<i32>(p, q, 1, 4, 7, 0), r, 0, 1, 2, 6)
  const c = v128.shuffle<i32>(v128.shuffle<i32>(p, q, 2, 5, 0, 0), r, 0, 1, 4, 7)
  if (!isUnit) {
    v128.store(x + to, f32x4.add(a, zero))
    v128.store(y + to, f32x4.add(b, zero))
    v128.store(z + to, f32x4.add(c, zero))
  } else {
    putUnits(a, b, c, x + to, y + to, z + to)
    putUnits(
      v128.shuffle<i64>(a, a, 1, 0),
      v128.shuffle<i64>(b, b, 1, 0),
      v128.shuffle<i64>(c, c, 1, 0),
      x + to + 8,
      y + to + 8,
      z + to + 8,
    )
  }
  store<u32>(known + <usize>texel, 0x01010101)
  return true
}

/** Puts the first two of four directions, brought to length 1. */
function putUnits(p: v128, q: v128, r: v128, x: usize, y: usize, z: usize): void {
  const zero = f64x2.splat(0)
  const a = f64x2.promote_low_f32x4(p)
  const b = f64x2.promote_low_f32x4(q)
  const c = f64x2.promote_low_f32x4(r)
  const length = f64x2.sqrt(f64x2.add(f64x2.add(f64x2.mul(a, a), f64x2.mul(b, b)), f64x2.mul(c, c)))
  const has = f64x2.gt(length, zero)
  // A sum makes 0 of −0, as adding 0 does.
  v128.store64_lane(x, f32x4.demote_f64x2_zero(v128.and(f64x2.div(f64x2.add(a, zero), length), has)), 0)
  v128.store64_lane(
    y,
    f32x4.demote_f64x2_zero(v128.bitselect(f64x2.div(f64x2.add(b, zero), length), f64x2.splat(1), has)),
    0,
  )
  v128.store64_lane(z, f32x4.demote_f64x2_zero(v128.and(f64x2.div(f64x2.add(c, zero), length), has)), 0)
}

/** Sets 1 at texels (u32) that are told. */
export function coverTexels(texels: usize, count: i32, covered: usize): void {
  const end = texels + ((<usize>count) << 2)
  for (; texels < end; texels += 4) store<u8>(covered + <usize>load<u32>(texels), 1)
}
