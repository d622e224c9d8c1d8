import { coverage, polygonDistance } from './polygon'

/** Bytes of a copy of a unit: where the unit is, its number, and how far the copy is moved. */
const COPY: usize = 24

/**
 * Twin of a row of bondFields (core/kernels/bonds/bond-fields.ts), which tells how units, copies and buckets lie in memory.
 * `v` is the row's place in tile widths; outputs that nobody asks for are 0.
 */
export function bondRow(
  width: i32,
  v: f64,
  starts: usize,
  copies: usize,
  across: i32,
  bucketWidth: f64,
  bucketRow: i32,
  edge: f64,
  heightJitter: f64,
  tilt: f64,
  mask: usize,
  distance: usize,
  value: usize,
  level: usize,
  id: usize,
  localX: usize,
  localY: usize,
  directionX: usize,
  directionY: usize,
): void {
  let found: usize = 0
  for (let x = 0; x < width; x++) {
    const at = (<usize>x) << 2
    const u = (<f64>x + 0.5) / <f64>width
    const column = <i32>Math.floor(u / bucketWidth)
    const bucket = starts + ((<usize>(bucketRow * across + (column < across ? column : across - 1))) << 2)
    const first = copies + <usize>load<i32>(bucket) * COPY
    const end = copies + <usize>load<i32>(bucket, 4) * COPY
    let best: usize = found >= first && found < end ? found : 0
    let max: f64 = best ? distanceTo(best, u, v) : -Infinity
    for (let copy = first; copy < end; copy += COPY) {
      const unit = <usize>load<i32>(copy)
      const px = u - load<f64>(copy, 8)
      const py = v - load<f64>(copy, 16)
      const left = load<f64>(unit, 88)
      const top = load<f64>(unit, 96)
      const right = load<f64>(unit, 104)
      const bottom = load<f64>(unit, 112)
      const ox: f64 = px < left ? left - px : px > right ? px - right : 0
      const oy: f64 = py < top ? top - py : py > bottom ? py - bottom : 0
      if ((ox > 0 || oy > 0) && (max >= 0 || ox * ox + oy * oy > max * max)) continue
      const d = unitDistance(unit, px, py)
      if (d > max || (d == max && copy < best)) {
        max = d
        best = copy
      }
    }
    found = best
    if (mask) store<f32>(mask + at, <f32>coverage(max, edge))
    if (distance) store<f32>(distance + at, <f32>(max + 0))
    const unit = <usize>load<i32>(best)
    if (id) store<i32>(id + at, load<i32>(best, 4))
    if (value) store<f32>(value + at, <f32>load<f64>(unit, 120))
    const cos = load<f64>(unit, 40)
    const sin = load<f64>(unit, 48)
    if (directionX) {
      store<f32>(directionX + at, <f32>(cos + 0))
      store<f32>(directionY + at, <f32>(-sin + 0))
    }
    if (!localX && !level) continue
    const px = u - load<f64>(best, 8) - load<f64>(unit, 24)
    const py = v - load<f64>(best, 16) - load<f64>(unit, 32)
    const s = (px * cos - py * sin - load<f64>(unit, 56)) / load<f64>(unit, 72)
    const t = (px * sin + py * cos - load<f64>(unit, 64)) / load<f64>(unit, 80)
    if (localX) {
      store<f32>(localX + at, <f32>((s + 1) / 2))
      store<f32>(localY + at, <f32>((t + 1) / 2))
    }
    if (level) {
      const lean = load<f64>(unit, 136) * withinOne(s) + load<f64>(unit, 144) * withinOne(t)
      store<f32>(level + at, <f32>(0.5 + heightJitter * load<f64>(unit, 128) + (tilt / 2) * lean))
    }
  }
}

function withinOne(v: f64): f64 {
  return v < -1 ? -1 : v > 1 ? 1 : v
}

function distanceTo(copy: usize, u: f64, v: f64): f64 {
  return unitDistance(<usize>load<i32>(copy), u - load<f64>(copy, 8), v - load<f64>(copy, 16))
}

/** Twin of unitDistance (core/kernels/bonds/laid-units.ts). */
function unitDistance(unit: usize, x: f64, y: f64): f64 {
  return polygonDistance(<usize>load<i32>(unit), load<i32>(unit, 4), x, y) + load<f64>(unit, 16)
}
