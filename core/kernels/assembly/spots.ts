import { hashNumber } from './random'

/** Bytes of a spot: place across and down, radius, value, number, middle and width of its edge, opacity. */
const SPOT: usize = 64

/**
 * Twin of a row of scatterSpots (core/kernels/spots.ts), at `y` cell widths down. `lines` points at the offsets of `count` lattice
 * rows, each with `reach` cells more at both ends; `room` has room for the offsets of the spots around a cell.
 */
export function spotsRow(
  width: i32,
  columns: i32,
  y: f64,
  lines: usize,
  count: i32,
  reach: i32,
  room: usize,
  texel: f64,
  vary: f64,
  isSum: bool,
  grey: usize,
  value: usize,
  id: usize,
): void {
  let column = -1
  let end = room
  for (let x = 0; x < width; x++) {
    const u = ((<f64>x + 0.5) / <f64>width) * <f64>columns
    const here = <i32>Math.floor(u)
    if (here != column) {
      column = here
      end = room
      for (let line = 0; line < count; line++) {
        const first = <usize>load<i32>(lines + ((<usize>line) << 2)) + <usize>column * SPOT
        for (let spot = first; spot <= first + <usize>(2 * reach) * SPOT; spot += SPOT) {
          if (load<f64>(spot, 16) < 0) continue
          store<i32>(end, <i32>spot)
          end += 4
        }
      }
    }
    let sum: f64 = 0
    let max: f64 = 0
    let top: usize = 0
    for (let at = room; at < end; at += 4) {
      const spot = <usize>load<i32>(at)
      const dx = u - load<f64>(spot)
      const dy = y - load<f64>(spot, 8)
      const reached = load<f64>(spot, 16) + texel
      const square = dx * dx + dy * dy
      // A root only where it may matter.
      if (square > reached * reached * 1.000001) continue
      const away = Math.sqrt(square)
      if (away > reached) continue
      const middle = load<f64>(spot, 40)
      const half = load<f64>(spot, 48) / 2
      const opacity = load<f64>(spot, 56) * (1 - smoothstep(middle - half, middle + half, away))
      if (opacity == 0) continue
      const level = opacity * (1 - vary * load<f64>(spot, 24))
      sum += level
      if (level > max) {
        max = level
        top = spot
      }
    }
    const to = (<usize>x) << 2
    if (grey) store<f32>(grey + to, <f32>(isSum ? sum : max))
    if (value) store<f32>(value + to, top ? <f32>load<f64>(top, 24) : 0)
    if (id) store<i32>(id + to, top ? <i32>load<f64>(top, 32) : 0)
  }
}

/** Twin of smoothstep (core/kernels/point.ts), whose ends and value are float64. */
function smoothstep(low: f64, high: f64, v: f64): f64 {
  if (v >= high) return 1
  if (v <= low) return 0
  const t = <f32>(v - low) / <f32>(high - low)
  return <f64>(t * t * (<f32>3 - <f32>2 * t))
}

/** Twin of the spots of one lattice row (Scattered in core/kernels/spots.ts), from `reach` cells before the first on. */
export function spotsLine(
  out: usize,
  stream: i32,
  line: i32,
  columns: i32,
  lines: i32,
  reach: i32,
  squash: f64,
  density: f64,
  small: f64,
  large: f64,
  maxSize: f64,
  softness: f64,
  texel: f64,
): void {
  let to = out
  const row = line - <i32>Math.floor(<f64>line / <f64>lines) * lines
  for (let cx = -reach; cx < columns + reach; cx++) {
    const id = row * columns + (cx - <i32>Math.floor(<f64>cx / <f64>columns) * columns)
    const own = <i32>hashNumber(stream + id)
    if (drawn(own, 0) >= density) store<f64>(to, -1, 16)
    else {
      const size = small + (large - small) * drawn(own, 3)
      const radius = (size < maxSize ? size : maxSize) / 2
      const wide = radius * softness
      const edge = wide > texel ? wide : texel
      const half = radius * (1 - softness / 2)
      const middle = half > edge / 2 ? half : edge / 2
      const faint = half / middle
      store<f64>(to, <f64>cx + drawn(own, 1))
      store<f64>(to, (<f64>line + drawn(own, 2)) * squash, 8)
      store<f64>(to, radius, 16)
      store<f64>(to, drawn(own, 4), 24)
      store<f64>(to, <f64>(id + 1), 32)
      store<f64>(to, middle, 40)
      store<f64>(to, edge, 48)
      store<f64>(to, faint * faint, 56)
    }
    to += SPOT
  }
}

function drawn(own: i32, what: i32): f64 {
  return <f64>(hashNumber(own + what) >>> 8) * 5.9604644775390625e-8
}
