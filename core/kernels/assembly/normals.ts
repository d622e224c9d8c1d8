import { boundedNumber, low, unit } from './lanes'

/**
 * Twin of a row of normalsOfHeight (core/kernels/normals.ts), by the row of heights and those above and below it. Where `outer` is
 * 0, differences of neighbours alone count; else `middle` and `outer` are the weights of 3 × 3 of them.
 */
export function normalsRow(
  above: usize,
  here: usize,
  below: usize,
  nx: usize,
  ny: usize,
  nz: usize,
  width: i32,
  slopeScale: f64,
  middle: f64,
  outer: f64,
): void {
  for (let x = 0; x < width; x++) {
    const at = (<usize>x) << 2
    const left = (<usize>(x == 0 ? width - 1 : x - 1)) << 2
    const right = (<usize>(x == width - 1 ? 0 : x + 1)) << 2
    const u = <f64>load<f32>(here + right) - <f64>load<f32>(here + left)
    const v = <f64>load<f32>(below + at) - <f64>load<f32>(above + at)
    let across = u / 2
    let down = v / 2
    if (outer != 0) {
      const uAbove = <f64>load<f32>(above + right) - <f64>load<f32>(above + left)
      const uBelow = <f64>load<f32>(below + right) - <f64>load<f32>(below + left)
      const vLeft = <f64>load<f32>(below + left) - <f64>load<f32>(above + left)
      const vRight = <f64>load<f32>(below + right) - <f64>load<f32>(above + right)
      across = middle * u + outer * (uAbove + uBelow)
      down = middle * v + outer * (vLeft + vRight)
    }
    const dx = -across * slopeScale
    const dy = down * slopeScale
    const scale = 1 / Math.sqrt(dx * dx + dy * dy + 1)
    store<f32>(nx + at, <f32>(<f64>(<f32>(dx * scale)) + 0))
    store<f32>(ny + at, <f32>(<f64>(<f32>(dy * scale)) + 0))
    store<f32>(nz + at, <f32>scale)
  }
}

/** Slopes of a row by central differences (slopeReader in core/kernels/slopes.ts), combined as ½ + (across − up) · scale. */
export function curvatureRow(across: usize, above: usize, below: usize, out: usize, width: i32, scale: f64): void {
  for (let x = 0; x < width; x++) {
    const at = (<usize>x) << 2
    const left = (<usize>(x == 0 ? width - 1 : x - 1)) << 2
    const right = (<usize>(x == width - 1 ? 0 : x + 1)) << 2
    const u = (<f64>load<f32>(across + right) - <f64>load<f32>(across + left)) / 2
    const v = (<f64>load<f32>(below + at) - <f64>load<f32>(above + at)) / 2
    store<f32>(out + at, boundedNumber(<f64>(<f32>(0.5 + (u - v) * scale))))
  }
}

let vx: f64 = 0
let vy: f64 = 0
let vz: f64 = 0

/** To unit length; straight up where there is none. */
function normalise(x: f64, y: f64, z: f64): void {
  const length = Math.sqrt(x * x + y * y + z * z)
  if (!(length > 1e-20)) {
    vx = 0
    vy = 0
    vz = 1
    return
  }
  vx = x / length
  vy = y / length
  vz = z / length
}

/**
 * Twin of combineNormalFields for `count` texels. `base`, `detail` and `out` point at the offsets of their three planes; `method`
 * is its place in NORMAL_METHODS; `mask` 0 is 1 everywhere.
 */
export function combineNormals(
  base: usize,
  detail: usize,
  mask: usize,
  out: usize,
  count: i32,
  method: i32,
  amount: f64,
): void {
  const bxs = <usize>load<i32>(base)
  const bys = <usize>load<i32>(base, 4)
  const bzs = <usize>load<i32>(base, 8)
  const dxs = <usize>load<i32>(detail)
  const dys = <usize>load<i32>(detail, 4)
  const dzs = <usize>load<i32>(detail, 8)
  const oxs = <usize>load<i32>(out)
  const oys = <usize>load<i32>(out, 4)
  const ozs = <usize>load<i32>(out, 8)
  const one = f64x2.splat(1)
  const zero = f64x2.splat(0)
  const whole = f64x2.splat(amount)
  // Two texels at a time.
  for (let at: usize = 0; at < (<usize>count) << 2; at += 8) {
    let x = pairAt(bxs + at)
    let y = pairAt(bys + at)
    let z = pairAt(bzs + at)
    let length = lengths(x, y, z)
    const bx = shortened(x, length, zero)
    const by = shortened(y, length, zero)
    const bz = shortened(z, length, one)
    x = pairAt(dxs + at)
    y = pairAt(dys + at)
    z = pairAt(dzs + at)
    length = lengths(x, y, z)
    let cx = shortened(x, length, zero)
    let cy = shortened(y, length, zero)
    let cz = shortened(z, length, one)
    if (method == 0) {
      const tz = f64x2.add(bz, one)
      const along = f64x2.add(f64x2.sub(f64x2.mul(f64x2.neg(bx), cx), f64x2.mul(by, cy)), f64x2.mul(tz, cz))
      const dot = f64x2.div(along, tz)
      const turned = f64x2.ge(tz, f64x2.splat(1e-9))
      cx = v128.bitselect(f64x2.add(f64x2.mul(bx, dot), cx), cx, turned)
      cy = v128.bitselect(f64x2.add(f64x2.mul(by, dot), cy), cy, turned)
      cz = v128.bitselect(f64x2.sub(f64x2.mul(tz, dot), cz), cz, turned)
    } else if (method < 3) {
      cx = f64x2.add(bx, cx)
      cy = f64x2.add(by, cy)
      cz = method == 1 ? f64x2.mul(bz, cz) : f64x2.add(bz, cz)
    }
    length = lengths(cx, cy, cz)
    cx = shortened(cx, length, zero)
    cy = shortened(cy, length, zero)
    cz = shortened(cz, length, one)
    let w = whole
    if (mask) w = low(f32x4.demote_f64x2_zero(f64x2.mul(low(unit(v128.load64_zero(mask + at))), whole)))
    x = f64x2.add(bx, f64x2.mul(f64x2.sub(cx, bx), w))
    y = f64x2.add(by, f64x2.mul(f64x2.sub(cy, by), w))
    z = f64x2.add(bz, f64x2.mul(f64x2.sub(cz, bz), w))
    length = lengths(x, y, z)
    storePair(oxs + at, shortened(x, length, zero))
    storePair(oys + at, shortened(y, length, zero))
    storePair(ozs + at, shortened(z, length, one))
  }
}

function pairAt(at: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load64_zero(at))
}

function storePair(at: usize, v: v128): void {
  v128.store64_lane(at, f32x4.add(f32x4.demote_f64x2_zero(v), f32x4.splat(0)), 0)
}

function lengths(x: v128, y: v128, z: v128): v128 {
  return f64x2.sqrt(f64x2.add(f64x2.add(f64x2.mul(x, x), f64x2.mul(y, y)), f64x2.mul(z, z)))
}

/** A part of a direction brought to length 1; `straight` where it has none. */
function shortened(v: v128, length: v128, straight: v128): v128 {
  return v128.bitselect(f64x2.div(v, length), straight, f64x2.gt(length, f64x2.splat(1e-20)))
}

/** Twin of weightOf (core/kernels/blend-fields.ts), whose amount is a float64. */
export function weightOf(mask: f32, amount: f64): f64 {
  return <f64>(<f32>((mask < 0 ? 0 : mask > 1 ? 1 : <f64>mask) * amount))
}

/** Twin of adjustNormals (core/kernels/normals.ts); as combineNormals. */
export function adjustNormals(
  source: usize,
  mask: usize,
  out: usize,
  count: i32,
  cos: f64,
  sin: f64,
  strength: f64,
  flip: bool,
): void {
  const sxs = <usize>load<i32>(source)
  const sys = <usize>load<i32>(source, 4)
  const szs = <usize>load<i32>(source, 8)
  const oxs = <usize>load<i32>(out)
  const oys = <usize>load<i32>(out, 4)
  const ozs = <usize>load<i32>(out, 8)
  for (let at: usize = 0; at < (<usize>count) << 2; at += 4) {
    const by = strength * (mask ? weightOf(load<f32>(mask + at), 1) : 1)
    const x = <f64>load<f32>(sxs + at)
    const y = <f64>load<f32>(sys + at)
    const green = flip ? -y : y
    normalise((x * cos - green * sin) * by, (x * sin + green * cos) * by, <f64>load<f32>(szs + at))
    store<f32>(oxs + at, <f32>(<f64>(<f32>vx) + 0))
    store<f32>(oys + at, <f32>(<f64>(<f32>vy) + 0))
    store<f32>(ozs + at, <f32>(<f64>(<f32>vz) + 0))
  }
}

/** Twin of coverage-share (core/nodes/conversion/coverage-share.ts). */
export function coverageShare(mask: usize, covered: usize, union: usize, out: usize, count: i32, amount: f64): void {
  for (let at: usize = 0; at < (<usize>count) << 2; at += 4) {
    const weight = weightOf(load<f32>(mask + at), weightOf(load<f32>(covered + at), amount))
    const all = <f64>load<f32>(union + at)
    const share = weight / all
    store<f32>(out + at, all > 0 ? <f32>((share < 1 ? share : 1) + 0) : 0)
  }
}
