import { bounded, high, joined, low } from './lanes'

/** Twins of core/kernels/channels.ts. Runs of `count` texels are rounded up to a multiple of 4. */

/** greyOf: `method` is its place in GREYS there. */
export function greyOf(first: usize, second: usize, third: usize, out: usize, count: i32, method: i32): void {
  for (let i: usize = 0; i < (<usize>count) << 2; i += 16)
    v128.store(out + i, bounded(grey(v128.load(first + i), v128.load(second + i), v128.load(third + i), method)))
}

function grey(r: v128, g: v128, b: v128, method: i32): v128 {
  switch (method) {
    case 1:
      return f32x4.max(f32x4.max(r, g), b)
    case 2:
      return f32x4.min(f32x4.min(r, g), b)
    case 4:
      return r
    case 5:
      return g
    case 6:
      return b
    default:
      return joined(greyPair(low(r), low(g), low(b), method), greyPair(high(r), high(g), high(b), method))
  }
}

function greyPair(r: v128, g: v128, b: v128, method: i32): v128 {
  if (method == 0)
    return f64x2.add(
      f64x2.add(f64x2.mul(f64x2.splat(0.2126), r), f64x2.mul(f64x2.splat(0.7152), g)),
      f64x2.mul(f64x2.splat(0.0722), b),
    )
  if (method == 3) return f64x2.div(f64x2.add(f64x2.add(r, g), b), f64x2.splat(3))
  return f64x2.sqrt(f64x2.add(f64x2.mul(r, r), f64x2.mul(g, g)))
}

/** directionsOf. */
export function directionsOf(r: usize, g: usize, b: usize, x: usize, y: usize, z: usize, count: i32): void {
  for (let i: usize = 0; i < (<usize>count) << 2; i += 16) {
    const red = v128.load(r + i)
    const green = v128.load(g + i)
    const blue = v128.load(b + i)
    const a0 = signed(low(red))
    const a1 = signed(high(red))
    const b0 = signed(low(green))
    const b1 = signed(high(green))
    const c0 = signed(low(blue))
    const c1 = signed(high(blue))
    const l0 = length(a0, b0, c0)
    const l1 = length(a1, b1, c1)
    v128.store(x + i, bounded(joined(share(a0, l0, 0), share(a1, l1, 0))))
    v128.store(y + i, bounded(joined(share(b0, l0, 0), share(b1, l1, 0))))
    v128.store(z + i, bounded(joined(share(c0, l0, 1), share(c1, l1, 1))))
  }
}

function signed(v: v128): v128 {
  return f64x2.sub(f64x2.mul(f64x2.splat(2), v), f64x2.splat(1))
}

function length(a: v128, b: v128, c: v128): v128 {
  return f64x2.sqrt(f64x2.add(f64x2.add(f64x2.mul(a, a), f64x2.mul(b, b)), f64x2.mul(c, c)))
}

function share(v: v128, whole: v128, otherwise: f64): v128 {
  return v128.bitselect(f64x2.div(v, whole), f64x2.splat(otherwise), f64x2.gt(whole, f64x2.splat(1e-20)))
}
