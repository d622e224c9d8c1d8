/** Twin of polygonDistance (core/kernels/polygon.ts); `corners` points at `count` pairs of float64. */
export function polygonDistance(corners: usize, count: i32, x: f64, y: f64): f64 {
  let min: f64 = Infinity
  let inside = false
  const end = corners + ((<usize>count) << 4)
  let ax = load<f64>(end - 16)
  let ay = load<f64>(end - 8)
  for (let at = corners; at < end; at += 16) {
    const bx = load<f64>(at)
    const by = load<f64>(at, 8)
    const ex = bx - ax
    const ey = by - ay
    const px = x - ax
    const py = y - ay
    const square = ex * ex + ey * ey
    let t: f64 = square > 0 ? (px * ex + py * ey) / square : 0
    t = t < 0 ? 0 : t > 1 ? 1 : t
    const dx = px - t * ex
    const dy = py - t * ey
    const d = dx * dx + dy * dy
    if (d < min) min = d
    if (ay > y != by > y && x < ax + ((y - ay) / ey) * ex) inside = !inside
    ax = bx
    ay = by
  }
  const distance = Math.sqrt(min)
  return inside ? distance : -distance
}

/** Twin of coverage (core/kernels/point.ts). */
export function coverage(distance: f64, width: f64): f64 {
  const fraction = 0.5 + distance / width
  return fraction < 0 ? 0 : fraction > 1 ? 1 : fraction
}
