import { coverage, polygonDistance } from './polygon'

/** Twin of ellipseDistance (core/kernels/shapes.ts). */
function ellipseDistance(a: f64, b: f64, x: f64, y: f64): f64 {
  const over = (a * a - b * b) / a
  const under = (b * b - a * a) / b
  const px = Math.abs(x)
  const py = Math.abs(y)
  let tx: f64 = 0.7071067811865476
  let ty: f64 = 0.7071067811865476
  for (let step = 0; step < 5; step++) {
    const ex = over * tx * tx * tx
    const ey = under * ty * ty * ty
    const rx = a * tx - ex
    const ry = b * ty - ey
    const qx = px - ex
    const qy = py - ey
    const far = Math.sqrt(qx * qx + qy * qy)
    const ratio: f64 = far > 0 ? Math.sqrt(rx * rx + ry * ry) / far : 0
    tx = Math.max(0, Math.min(1, (qx * ratio + ex) / a))
    ty = Math.max(0, Math.min(1, (qy * ratio + ey) / b))
    const size = Math.sqrt(tx * tx + ty * ty)
    tx /= size
    ty /= size
  }
  const dx = px - a * tx
  const dy = py - b * ty
  const inside = (px * px) / (a * a) + (py * py) / (b * b) < 1
  return inside ? Math.sqrt(dx * dx + dy * dy) : -Math.sqrt(dx * dx + dy * dy)
}

/** Twin of figureDistance: `kind` is its place in FIGURES; what `a`, `b` and `c` are, its kind says there. */
function figureDistance(kind: i32, corners: usize, count: i32, a: f64, b: f64, c: f64, x: f64, y: f64): f64 {
  switch (kind) {
    case 0:
      return polygonDistance(corners, count, x, y) + a
    case 1:
      return a - Math.sqrt(x * x + y * y)
    case 2:
      return ellipseDistance(a, b, x, y)
    case 3:
      return a - Math.abs(Math.sqrt(x * x + y * y) - b)
    default: {
      const along = c != 0 ? x : y
      const beside = c != 0 ? y : x
      const past = Math.abs(along) - b
      return a - (past > 0 ? Math.sqrt(past * past + beside * beside) : Math.abs(beside))
    }
  }
}

/**
 * Twin of a row of repeatedShape (core/kernels/shapes.ts): `xs` holds for each texel its place across from its cell's middle, `y` is
 * the row's place down. `reach` is the greatest distance of the figure from its middle: copies too far off to be nearer than
 * what is found are passed over.
 */
export function shapeRow(
  xs: usize,
  y: f64,
  width: i32,
  cellWidth: f64,
  cellHeight: f64,
  cos: f64,
  sin: f64,
  kind: i32,
  corners: usize,
  count: i32,
  a: f64,
  b: f64,
  c: f64,
  reach: f64,
  edge: f64,
  grey: usize,
  distance: usize,
): void {
  for (let i = 0; i < width; i++) {
    const x = load<f64>(xs + ((<usize>i) << 3))
    let max = figureDistance(kind, corners, count, a, b, c, x * cos - y * sin, x * sin + y * cos)
    for (let j = -1; j <= 1; j++) {
      const py = y - <f64>j * cellHeight
      for (let k = -1; k <= 1; k++) {
        if (j == 0 && k == 0) continue
        const px = x - <f64>k * cellWidth
        // Outside its circle a copy is at least so far away; a little more for what rounding may do.
        const away = reach - max + 1e-9
        if (away < 0 || px * px + py * py > away * away) continue
        const d = figureDistance(kind, corners, count, a, b, c, px * cos - py * sin, px * sin + py * cos)
        if (d > max) max = d
      }
    }
    const at = (<usize>i) << 2
    if (distance) store<f32>(distance + at, <f32>(max + 0))
    if (grey) store<f32>(grey + at, <f32>coverage(max, edge))
  }
}
