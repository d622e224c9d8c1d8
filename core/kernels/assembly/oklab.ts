import { bounded, unit } from './lanes'
import { smoothed } from './values'

/** Twins of core/kernels/oklab-tones.ts. */

/** cubeRoot. */
function cubeRoot(v: v128): v128 {
  const a = f32x4.abs(v)
  const third = f32x4.mul(f32x4.convert_i32x4_s(a), f32x4.splat(0.3333333432674408))
  let y = i32x4.trunc_sat_f32x4_s(f32x4.add(third, f32x4.splat(709921077)))
  const twice = f32x4.add(a, a)
  for (let step = 0; step < 2; step++) {
    const cube = f32x4.mul(f32x4.mul(y, y), y)
    y = f32x4.mul(y, f32x4.div(f32x4.add(cube, twice), f32x4.add(f32x4.add(cube, cube), a)))
  }
  const signed = v128.bitselect(f32x4.neg(y), y, f32x4.lt(v, f32x4.splat(0)))
  return v128.andnot(signed, f32x4.eq(a, f32x4.splat(0)))
}

function sum3(a: f32, x: v128, b: f32, y: v128, c: f32, z: v128): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(a), x), f32x4.mul(f32x4.splat(b), y)), f32x4.mul(f32x4.splat(c), z))
}

function cube(v: v128): v128 {
  return f32x4.mul(f32x4.mul(v, v), v)
}

function rootL(r: v128, g: v128, b: v128): v128 {
  return cubeRoot(sum3(0.4122214708, r, 0.5363325363, g, 0.0514459929, b))
}

function rootM(r: v128, g: v128, b: v128): v128 {
  return cubeRoot(sum3(0.2119034982, r, 0.6806995451, g, 0.1073969566, b))
}

function rootS(r: v128, g: v128, b: v128): v128 {
  return cubeRoot(sum3(0.0883024619, r, 0.2817188376, g, 0.6299787005, b))
}

function labL(l: v128, m: v128, s: v128): v128 {
  return sum3(0.2104542553, l, 0.793617785, m, -0.0040720468, s)
}

function labA(l: v128, m: v128, s: v128): v128 {
  return sum3(1.9779984951, l, -2.428592205, m, 0.4505937099, s)
}

function labB(l: v128, m: v128, s: v128): v128 {
  return sum3(0.0259040371, l, 0.7827717662, m, -0.808675766, s)
}

/** mixBounded (core/kernels/blend-fields.ts). */
function mix(b: v128, m: v128, w: v128): v128 {
  const mixed = f32x4.add(b, f32x4.mul(f32x4.sub(m, b), w))
  const kept = bounded(v128.bitselect(m, mixed, f32x4.eq(w, f32x4.splat(1))))
  return v128.bitselect(b, kept, f32x4.eq(w, f32x4.splat(0)))
}

function lightness(v: v128, contrast: f32, brightness: f32): v128 {
  const half = f32x4.splat(0.5)
  const spread = f32x4.mul(f32x4.sub(v, half), f32x4.splat(contrast))
  return f32x4.add(f32x4.add(spread, half), f32x4.splat(brightness))
}

/** changeTones of a grey; `mask` 0 stands for 1 everywhere. */
export function changeGrey(source: usize, mask: usize, out: usize, count: i32, contrast: f32, brightness: f32): void {
  for (let i: usize = 0; i < (<usize>count) << 2; i += 16) {
    const v = v128.load(source + i)
    const w = mask ? unit(v128.load(mask + i)) : f32x4.splat(1)
    v128.store(out + i, mix(v, lightness(v, contrast, brightness), w))
  }
}

/** changeTones of a colour; `mask` 0 stands for 1 everywhere. */
export function changeTones(
  red: usize,
  green: usize,
  blue: usize,
  mask: usize,
  outRed: usize,
  outGreen: usize,
  outBlue: usize,
  count: i32,
  cos: f32,
  sin: f32,
  contrast: f32,
  brightness: f32,
): void {
  const cosine = f32x4.splat(cos)
  const sine = f32x4.splat(sin)
  for (let i: usize = 0; i < (<usize>count) << 2; i += 16) {
    const r = v128.load(red + i)
    const g = v128.load(green + i)
    const b = v128.load(blue + i)
    const l = rootL(r, g, b)
    const m = rootM(r, g, b)
    const s = rootS(r, g, b)
    const L = lightness(labL(l, m, s), contrast, brightness)
    const x = labA(l, m, s)
    const y = labB(l, m, s)
    const A = f32x4.sub(f32x4.mul(x, cosine), f32x4.mul(y, sine))
    const B = f32x4.add(f32x4.mul(x, sine), f32x4.mul(y, cosine))
    const l3 = cube(sum3(1, L, 0.3963377774, A, 0.2158037573, B))
    const m3 = cube(sum3(1, L, -0.1055613458, A, -0.0638541728, B))
    const s3 = cube(sum3(1, L, -0.0894841775, A, -1.291485548, B))
    const w = mask ? unit(v128.load(mask + i)) : f32x4.splat(1)
    v128.store(outRed + i, mix(r, sum3(4.0767416621, l3, -3.3077115913, m3, 0.2309699292, s3), w))
    v128.store(outGreen + i, mix(g, sum3(-1.2684380046, l3, 2.6097574011, m3, -0.3413193965, s3), w))
    v128.store(outBlue + i, mix(b, sum3(-0.0041960863, l3, -0.7034186147, m3, 1.707614701, s3), w))
  }
}

/** maskColours; `mask` and `distance` are 0 where nobody asks for them. */
export function maskColours(
  red: usize,
  green: usize,
  blue: usize,
  mask: usize,
  distance: usize,
  count: i32,
  L0: f32,
  a0: f32,
  b0: f32,
  lightness: f32,
  low: f64,
  high: f64,
): void {
  const width = f32x4.splat(<f32>(high - low))
  for (let i: usize = 0; i < (<usize>count) << 2; i += 16) {
    const r = v128.load(red + i)
    const g = v128.load(green + i)
    const b = v128.load(blue + i)
    const l = rootL(r, g, b)
    const m = rootM(r, g, b)
    const s = rootS(r, g, b)
    const dL = f32x4.mul(f32x4.sub(labL(l, m, s), f32x4.splat(L0)), f32x4.splat(lightness))
    const da = f32x4.sub(labA(l, m, s), f32x4.splat(a0))
    const db = f32x4.sub(labB(l, m, s), f32x4.splat(b0))
    const square = f32x4.add(f32x4.add(f32x4.mul(dL, dL), f32x4.mul(da, da)), f32x4.mul(db, db))
    const off = f32x4.pmin(f32x4.sqrt(square), f32x4.splat(1e18))
    if (mask) v128.store(mask + i, f32x4.sub(f32x4.splat(1), smoothed(off, low, high, width)))
    if (distance) v128.store(distance + i, off)
  }
}
