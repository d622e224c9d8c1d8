import { boundedNumber } from './lanes'

/** Below this alpha a level knows no colour worth taking; see core/kernels/bleed.ts. */
const FEWEST: f64 = 1.0 / 512.0

/** What was read last: colour multiplied by alpha, and alpha. */
let red: f64 = 0
let green: f64 = 0
let blue: f64 = 0
let alpha: f64 = 0

function clamped(i: i32, n: i32): i32 {
  return i < 0 ? 0 : i >= n ? n - 1 : i
}

/** Twin of readLevel (core/kernels/image-sampling.ts) with clamped edges, mixed `fraction` into what was read before. */
function readLevel(level: usize, u: f64, v: f64, fraction: f64): void {
  const texels = <usize>load<i32>(level)
  const width = load<i32>(level, 4)
  const height = load<i32>(level, 8)
  const px = u * <f64>width - 0.5
  const py = v * <f64>height - 0.5
  const floorX = Math.floor(px)
  const floorY = Math.floor(py)
  const tx = f64x2.splat(px - floorX)
  const ty = f64x2.splat(py - floorY)
  const x0 = (<usize>clamped(<i32>floorX, width)) << 4
  const x1 = (<usize>clamped(<i32>floorX + 1, width)) << 4
  const upper = texels + ((<usize>(clamped(<i32>floorY, height) * width)) << 4)
  const lower = texels + ((<usize>(clamped(<i32>floorY + 1, height) * width)) << 4)
  const first = between(upper + x0, upper + x1, lower + x0, lower + x1, tx, ty)
  const second = between(upper + x0 + 8, upper + x1 + 8, lower + x0 + 8, lower + x1 + 8, tx, ty)
  const r = f64x2.extract_lane(first, 0)
  const g = f64x2.extract_lane(first, 1)
  const b = f64x2.extract_lane(second, 0)
  const a = f64x2.extract_lane(second, 1)
  if (fraction == 0) {
    red = r
    green = g
    blue = b
    alpha = a
  } else {
    red = red + (r - red) * fraction
    green = green + (g - green) * fraction
    blue = blue + (b - blue) * fraction
    alpha = alpha + (a - alpha) * fraction
  }
}

function between(a: usize, c: usize, b: usize, d: usize, tx: v128, ty: v128): v128 {
  const a2 = f64x2.promote_low_f32x4(v128.load64_zero(a))
  const b2 = f64x2.promote_low_f32x4(v128.load64_zero(b))
  const top = f64x2.add(a2, f64x2.mul(f64x2.sub(f64x2.promote_low_f32x4(v128.load64_zero(c)), a2), tx))
  const low = f64x2.add(b2, f64x2.mul(f64x2.sub(f64x2.promote_low_f32x4(v128.load64_zero(d)), b2), tx))
  return f64x2.add(top, f64x2.mul(f64x2.sub(low, top), ty))
}

/** Twin of imageReader: `reader` tells the level read first, and how far the next one counts. */
function read(reader: usize, levels: usize, u: f64, v: f64): void {
  const level = levels + ((<usize>load<i32>(reader)) << 4)
  readLevel(level, u, v, 0)
  const fraction = load<f64>(reader, 8)
  if (fraction != 0) readLevel(level + 16, u, v, fraction)
}

/**
 * Twin of a row of stencilFields (core/kernels/stencil.ts), at `v` tile widths down from the picture's middle. `levels` holds four
 * words each: where its texels lie, width, height; `readers` four words each: the level read first, and how far the next one
 * counts, as a float64 in the second half; the first reader is that for the picture's size, then come coarser ones. `mask` and
 * outputs that nobody asks for are 0.
 */
export function stencilRow(
  width: i32,
  centreX: f64,
  v: f64,
  tile: f64,
  spanX: i32,
  spanY: i32,
  far: f64,
  cos: f64,
  sin: f64,
  size: f64,
  tall: f64,
  mirror: bool,
  opacity: f64,
  levels: usize,
  readers: usize,
  readerCount: i32,
  underRed: usize,
  underGreen: usize,
  underBlue: usize,
  mask: usize,
  outRed: usize,
  outGreen: usize,
  outBlue: usize,
  outAlpha: usize,
  ownRed: usize,
  ownGreen: usize,
  ownBlue: usize,
): void {
  const texels = <f64>width
  const dy = v - Math.round(v / tile) * tile
  const end = readers + ((<usize>readerCount) << 4)
  for (let x = 0; x < width; x++) {
    const at = (<usize>x) << 2
    const u = (<f64>x + 0.5) / texels - centreX
    const dx = u - Math.round(u)
    let max: f64 = -1
    let r: f64 = 0
    let g: f64 = 0
    let b: f64 = 0
    if (dx * dx + dy * dy <= far)
      for (let j = -spanY; j <= spanY; j++)
        for (let i = -spanX; i <= spanX; i++) {
          const px = dx + <f64>i
          const py = dy + <f64>j * tile
          if (px * px + py * py > far) continue
          const across = (px * cos - py * sin) / size
          const down = (px * sin + py * cos) / tall
          const side = 0.5 - Math.abs(across)
          const end2 = ((0.5 - Math.abs(down)) * tall) / size
          const border = (side < end2 ? side : end2) * size * texels + 0.5
          if (border <= 0) continue
          const pu = mirror ? 0.5 - across : across + 0.5
          const pv = down + 0.5
          read(readers, levels, pu, pv)
          const own = alpha
          for (let reader = readers + 16; alpha < FEWEST && reader < end; reader += 16) read(reader, levels, pu, pv)
          const covers = own * (border < 1 ? border : 1)
          if (covers <= max) continue
          max = covers
          r = alpha > 0 ? red / alpha : 0
          g = alpha > 0 ? green / alpha : 0
          b = alpha > 0 ? blue / alpha : 0
        }
    let shows: f64 = 1
    if (mask) {
      const m = <f64>load<f32>(mask + at)
      shows = m < 0 ? 0 : m > 1 ? 1 : m
    }
    const w: f32 = max < 0 ? 0 : <f32>(max * opacity * shows)
    if (outAlpha) store<f32>(outAlpha + at, w + 0)
    if (outRed) {
      store<f32>(outRed + at, mixed(load<f32>(underRed + at), <f32>r, w))
      store<f32>(outGreen + at, mixed(load<f32>(underGreen + at), <f32>g, w))
      store<f32>(outBlue + at, mixed(load<f32>(underBlue + at), <f32>b, w))
    }
    if (ownRed) {
      store<f32>(ownRed + at, boundedNumber(r))
      store<f32>(ownGreen + at, boundedNumber(g))
      store<f32>(ownBlue + at, boundedNumber(b))
    }
  }
}

/** Twin of mixBounded (core/kernels/blend-fields.ts). */
function mixed(b: f32, m: f32, w: f32): f32 {
  if (w == 0) return b
  return boundedNumber(<f64>(w == 1 ? m : b + (m - b) * w))
}
