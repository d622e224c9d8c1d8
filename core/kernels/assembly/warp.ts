import { cosTurns, sinTurns } from './elementary'
import { withinOne } from './lanes'

/** A push of length 1 at most, from its two parts. */
function storePush(u: usize, v: usize, at: usize, right: f64, up: f64): void {
  const square = right * right + up * up
  // A root only where it may be above 1.
  const length: f64 = square > 1 ? Math.sqrt(square) : 1
  store<f64>(u + at, length > 1 ? right / length : right)
  store<f64>(v + at, length > 1 ? up / length : up)
}

/** The push of a warp along an angle: to the right, as far as the driver says (0: everywhere 1). */
export function pushByAngle(driver: usize, u: usize, v: usize, width: i32): void {
  for (let x = 0; x < width; x++)
    storePush(u, v, (<usize>x) << 3, driver ? withinOne(<f64>load<f32>(driver + ((<usize>x) << 2))) : 1, 0)
}

/** The push of a warp by a field of vectors, whose second part points down. */
export function pushByVector(across: usize, down: usize, u: usize, v: usize, width: i32): void {
  for (let x = 0; x < width; x++) {
    const at = (<usize>x) << 2
    storePush(u, v, at << 1, <f64>load<f32>(across + at), -(<f64>load<f32>(down + at)))
  }
}

/** The push of a warp downhill, by the row of a driver and those above and below it. */
export function pushBySlope(
  above: usize,
  here: usize,
  below: usize,
  u: usize,
  v: usize,
  width: i32,
  steepness: f64,
): void {
  const texels = <f64>width
  for (let x = 0; x < width; x++) {
    const at = (<usize>x) << 2
    const left = (<usize>(x == 0 ? width - 1 : x - 1)) << 2
    const right = (<usize>(x == width - 1 ? 0 : x + 1)) << 2
    const across = (<f64>load<f32>(here + right) - <f64>load<f32>(here + left)) / 2
    const down = (<f64>load<f32>(below + at) - <f64>load<f32>(above + at)) / 2
    storePush(u, v, at << 1, (-across * texels) / steepness, (down * texels) / steepness)
  }
}

/**
 * Where each texel of row `y` comes from, by its push turned: by `turns` and what `angleBy` adds (0: nothing). `cos` and `sin`
 * are those of `turns`; `strengthBy` 0 is 1 everywhere.
 */
export function pushedFrom(
  u: usize,
  v: usize,
  px: usize,
  py: usize,
  width: i32,
  y: f64,
  turns: f64,
  cos: f64,
  sin: f64,
  angleBy: usize,
  strengthBy: usize,
  strength: f64,
): void {
  const texels = <f64>width
  let c = cos
  let s = sin
  if (!angleBy && !strengthBy) {
    pushedAlike(u, v, px, py, width, y, cos, sin, strength)
    return
  }
  for (let x = 0; x < width; x++) {
    const at = (<usize>x) << 2
    const to = at << 1
    if (angleBy) {
      const angle = turns + <f64>load<f32>(angleBy + at)
      c = cosTurns(angle)
      s = sinTurns(angle)
    }
    let ratio: f64 = 1
    if (strengthBy) {
      const by = withinOne(<f64>load<f32>(strengthBy + at))
      ratio = by > 0 ? by : 0
    }
    ratio *= strength
    const right = load<f64>(u + to)
    const up = load<f64>(v + to)
    store<f64>(px + to, <f64>x - (right * c - up * s) * ratio * texels)
    store<f64>(py + to, y - -(right * s + up * c) * ratio * texels)
  }
}

/** The same where turn and strength are the same everywhere, two texels at a time; `px` and `py` have room for one more. */
function pushedAlike(
  u: usize,
  v: usize,
  px: usize,
  py: usize,
  width: i32,
  y: f64,
  cos: f64,
  sin: f64,
  strength: f64,
): void {
  const c = f64x2.splat(cos)
  const s = f64x2.splat(sin)
  const ratio = f64x2.splat(strength)
  const texels = f64x2.splat(<f64>width)
  const row = f64x2.splat(y)
  let column = f64x2(0, 1)
  for (let at: usize = 0; at < (<usize>width) << 3; at += 16) {
    const right = v128.load(u + at)
    const up = v128.load(v + at)
    const across = f64x2.mul(f64x2.sub(f64x2.mul(right, c), f64x2.mul(up, s)), ratio)
    const down = f64x2.mul(f64x2.neg(f64x2.add(f64x2.mul(right, s), f64x2.mul(up, c))), ratio)
    v128.store(px + at, f64x2.sub(column, f64x2.mul(across, texels)))
    v128.store(py + at, f64x2.sub(row, f64x2.mul(down, texels)))
    column = f64x2.add(column, f64x2.splat(2))
  }
}
