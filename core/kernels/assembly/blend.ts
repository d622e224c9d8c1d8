import { bounded, unit } from './lanes'

/**
 * Twin of blendFields (core/kernels/blend-fields.ts) for one plane of `count` texels, rounded up to a multiple of 4. `mode` is
 * its place in SIMD_MODES there; `mask` 0 stands for 1 everywhere.
 */
export function blend(mode: i32, base: usize, source: usize, mask: usize, out: usize, count: i32, amount: f32): void {
  const zero = f32x4.splat(0)
  const one = f32x4.splat(1)
  const whole = f32x4.splat(amount)
  const end = (<usize>count) << 2
  for (let i: usize = 0; i < end; i += 16) {
    const b = v128.load(base + i)
    const s = v128.load(source + i)
    const m = mode == 0 ? s : combined(mode, b, s)
    const w = mask ? f32x4.mul(unit(v128.load(mask + i)), whole) : whole
    const mixed = f32x4.add(b, f32x4.mul(f32x4.sub(m, b), w))
    const kept = v128.bitselect(m, mixed, f32x4.eq(w, one))
    v128.store(out + i, v128.bitselect(b, bounded(kept), f32x4.eq(w, zero)))
  }
}

function screen(b: v128, s: v128): v128 {
  return f32x4.sub(f32x4.add(b, s), f32x4.mul(b, s))
}

function hardLight(b: v128, s: v128): v128 {
  const twice = f32x4.mul(f32x4.splat(2), s)
  return v128.bitselect(f32x4.mul(b, twice), screen(b, f32x4.sub(twice, f32x4.splat(1))), f32x4.le(s, f32x4.splat(0.5)))
}

function softLight(b: v128, s: v128): v128 {
  const one = f32x4.splat(1)
  const twice = f32x4.mul(f32x4.splat(2), s)
  const darker = f32x4.sub(b, f32x4.mul(f32x4.mul(f32x4.sub(one, twice), b), f32x4.sub(one, b)))
  const cubic = f32x4.mul(
    f32x4.add(f32x4.mul(f32x4.sub(f32x4.mul(f32x4.splat(16), b), f32x4.splat(12)), b), f32x4.splat(4)),
    b,
  )
  const d = v128.bitselect(cubic, f32x4.sqrt(b), f32x4.le(b, f32x4.splat(0.25)))
  const lighter = f32x4.add(b, f32x4.mul(f32x4.sub(twice, one), f32x4.sub(d, b)))
  return v128.bitselect(darker, lighter, f32x4.le(s, f32x4.splat(0.5)))
}

function dodge(b: v128, s: v128): v128 {
  const one = f32x4.splat(1)
  const q = f32x4.min(one, f32x4.div(b, f32x4.sub(one, s)))
  return v128.bitselect(f32x4.splat(0), v128.bitselect(one, q, f32x4.eq(s, one)), f32x4.eq(b, f32x4.splat(0)))
}

function burn(b: v128, s: v128): v128 {
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  const q = f32x4.sub(one, f32x4.min(one, f32x4.div(f32x4.sub(one, b), s)))
  return v128.bitselect(one, v128.bitselect(zero, q, f32x4.eq(s, zero)), f32x4.eq(b, one))
}

function exclusion(b: v128, s: v128): v128 {
  return f32x4.sub(f32x4.add(b, s), f32x4.mul(f32x4.splat(2), f32x4.mul(b, s)))
}

/** B(base, source) of SEPARABLE in core/kernels/blend.ts. */
function combined(mode: i32, b: v128, s: v128): v128 {
  switch (mode) {
    case 1:
      return f32x4.mul(unit(b), unit(s))
    case 2:
      return screen(unit(b), unit(s))
    case 3:
      return hardLight(unit(s), unit(b))
    case 4:
      return f32x4.min(unit(b), unit(s))
    case 5:
      return f32x4.max(unit(b), unit(s))
    case 6:
      return dodge(unit(b), unit(s))
    case 7:
      return burn(unit(b), unit(s))
    case 8:
      return hardLight(unit(b), unit(s))
    case 9:
      return softLight(unit(b), unit(s))
    case 10:
      return f32x4.abs(f32x4.sub(unit(b), unit(s)))
    case 11:
      return exclusion(unit(b), unit(s))
    case 12:
      return f32x4.add(b, s)
    case 13:
      return f32x4.sub(b, s)
    case 14:
      return f32x4.add(b, f32x4.sub(f32x4.mul(f32x4.splat(2), s), f32x4.splat(1)))
    case 15:
      return v128.bitselect(b, f32x4.div(b, s), f32x4.eq(s, f32x4.splat(0)))
    case 16:
      return f32x4.min(b, s)
    default:
      return f32x4.max(b, s)
  }
}
