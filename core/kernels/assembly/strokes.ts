import { floorMod } from './read-places'

/** As in core/kernels/strokes.ts. */
const PIECES: i32 = 10
const STRIDE: i32 = 2 * (PIECES + 1) + 2

function smoothstep(low: f64, high: f64, v: f64): f64 {
  if (v >= high) return 1
  if (v <= low) return 0
  const t = <f32>(v - low) / <f32>(high - low)
  return t * t * (3 - 2 * t)
}

/**
 * Twin of drawStrokes with keepBrightest (core/kernels/strokes.ts) for `count` strokes at `strokes`, over rows `from` to `to` of
 * the tile, which lie `shift` further down in the fields; those begin with row `top`. `value`, `du` and `dv` may be 0.
 */
export function strokesRows(
  strokes: usize,
  count: i32,
  width: i32,
  tile: f64,
  from: i32,
  to: i32,
  shift: i32,
  top: i32,
  taper: f64,
  softness: f64,
  vary: f64,
  grey: usize,
  value: usize,
  du: usize,
  dv: usize,
): void {
  const columns = <f64>width
  const one = 1 / columns
  for (let i = 0; i < count; i++) {
    const stroke = strokes + ((<usize>(i * STRIDE)) << 3)
    const half = load<f64>(stroke + ((<usize>(STRIDE - 2)) << 3))
    const own = load<f64>(stroke + ((<usize>(STRIDE - 1)) << 3))
    const reach = half + one
    for (let k = 0; k < PIECES; k++) {
      const ends = stroke + ((<usize>(2 * k)) << 3)
      const ax = load<f64>(ends)
      const ay = load<f64>(ends, 8)
      const bx = load<f64>(ends, 16)
      const by = load<f64>(ends, 24)
      const ex = bx - ax
      const ey = by - ay
      const square = ex * ex + ey * ey
      const length = Math.sqrt(square)
      const left = Math.min(ax, bx) - reach
      const right = Math.max(ax, bx) + reach
      const upper = Math.min(ay, by) - reach
      const lower = Math.max(ay, by) + reach
      const x0 = <i32>Math.ceil(left * columns - 0.5)
      const x1 = <i32>Math.floor(right * columns - 0.5)
      const last = <i32>Math.floor(lower / tile)
      for (let ty = <i32>Math.floor(upper / tile); ty <= last; ty++) {
        const down = <f64>ty * tile
        const y0 = max(from, <i32>Math.ceil((upper - down) * columns - 0.5))
        const y1 = min(to - 1, <i32>Math.floor((lower - down) * columns - 0.5))
        for (let y = y0; y <= y1; y++) {
          const row = (y + shift - top) * width
          const py = (<f64>y + 0.5) / columns + down - ay
          for (let x = x0; x <= x1; x++) {
            const px = (<f64>x + 0.5) / columns - ax
            let t = square > 0 ? (px * ex + py * ey) / square : 0
            t = t < 0 ? 0 : t > 1 ? 1 : t
            const dx = px - t * ex
            const dy = py - t * ey
            const away = Math.sqrt(dx * dx + dy * dy)
            const along = Math.abs((2 * (<f64>k + t)) / <f64>PIECES - 1)
            const wide = half * (1 - taper * along)
            const edge = Math.max(wide * softness, one)
            const middle = wide * (1 - softness / 2)
            const fits = Math.max(middle, edge / 2)
            const cover = (middle / fits) * (1 - smoothstep(fits - edge / 2, fits + edge / 2, away))
            if (!(cover > 0)) continue
            const level = <f32>(cover * (1 - vary * own))
            const at = (<usize>(row + floorMod(x, width))) << 2
            if (level <= load<f32>(grey + at)) continue
            store<f32>(grey + at, level)
            if (value) store<f32>(value + at, <f32>own)
            if (du) {
              store<f32>(du + at, length > 0 ? <f32>(ex / length + 0) : 0)
              store<f32>(dv + at, length > 0 ? <f32>(ey / length + 0) : 0)
            }
          }
        }
      }
    }
  }
}
