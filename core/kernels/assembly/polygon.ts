/** Twin of polygonDistance (core/kernels/polygon.ts) for two points of a row; `corners` points at `count` pairs of float64. */
export function polygonDistances(corners: usize, count: i32, x: v128, y: f64): v128 {
  const zero = f64x2.splat(0)
  const one = f64x2.splat(1)
  let min = f64x2.splat(Infinity)
  let inside = i64x2.splat(0)
  const end = corners + ((<usize>count) << 4)
  let ax = load<f64>(end - 16)
  let ay = load<f64>(end - 8)
  for (let at = corners; at < end; at += 16) {
    const bx = load<f64>(at)
    const by = load<f64>(at, 8)
    const ex = bx - ax
    const ey = by - ay
    const px = f64x2.sub(x, f64x2.splat(ax))
    const py = y - ay
    const square = ex * ex + ey * ey
    let t = zero
    if (square > 0) {
      t = f64x2.div(f64x2.add(f64x2.mul(px, f64x2.splat(ex)), f64x2.splat(py * ey)), f64x2.splat(square))
      t = v128.bitselect(zero, v128.bitselect(one, t, f64x2.gt(t, one)), f64x2.lt(t, zero))
    }
    const dx = f64x2.sub(px, f64x2.mul(t, f64x2.splat(ex)))
    const dy = f64x2.sub(f64x2.splat(py), f64x2.mul(t, f64x2.splat(ey)))
    min = f64x2.pmin(min, f64x2.add(f64x2.mul(dx, dx), f64x2.mul(dy, dy)))
    if (ay > y != by > y) inside = v128.xor(inside, f64x2.lt(x, f64x2.splat(ax + ((y - ay) / ey) * ex)))
    ax = bx
    ay = by
  }
  const distance = f64x2.sqrt(min)
  return v128.bitselect(distance, f64x2.neg(distance), inside)
}

/** The same for one point. */
export function polygonDistance(corners: usize, count: i32, x: f64, y: f64): f64 {
  return f64x2.extract_lane(polygonDistances(corners, count, f64x2.splat(x), y), 0)
}

/** Twin of coverage (core/kernels/point.ts). */
export function coverage(distance: f64, width: f64): f64 {
  const fraction = 0.5 + distance / width
  return fraction < 0 ? 0 : fraction > 1 ? 1 : fraction
}
