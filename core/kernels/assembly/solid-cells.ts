import { hashInto, hashNumber } from './random'
import { held } from './solid-noise'

/** Cells around the one of a place, the nearest first. */
const AROUND = memory.data<i8>([0, -1, 1, -2, 2])

/** How far a coordinate within its cell, 0–1, is from the cell `c` cells on. */
function gap(within: f64, c: i32): f64 {
  return c > 0 ? <f64>c - within : c < 0 ? within - <f64>c - 1 : 0
}

/** Where a point lies in its cell along an axis, off the middle of a cell. */
function moved(hash: u32, jitter: f64): f64 {
  return jitter * (<f64>(hash >>> 8) * 5.9604644775390625e-8 - 0.5)
}

/** Twin of solidCellsField (core/kernels/solid-cells.ts) for `count` texels whose places lie at xs, ys and zs; what is not wanted is 0. */
export function solidCellsRow(
  xs: usize,
  ys: usize,
  zs: usize,
  count: i32,
  across: f64,
  jitter: f64,
  seed: i32,
  value: usize,
  distance: usize,
  border: usize,
  id: usize,
): void {
  for (let n: usize = 0; n < <usize>count; n++) {
    const x = held(<f64>load<f32>(xs + (n << 2)) * across)
    const y = held(<f64>load<f32>(ys + (n << 2)) * across)
    const z = held(<f64>load<f32>(zs + (n << 2)) * across)
    const fi = floor(x)
    const fj = floor(y)
    const fk = floor(z)
    const i = <i32>(<i64>fi)
    const j = <i32>(<i64>fj)
    const k = <i32>(<i64>fk)
    const u = x - fi
    const v = y - fj
    const w = z - fk
    let nearest: f64 = Infinity
    let second: f64 = Infinity
    let found: u32 = 0
    for (let ci: usize = 0; ci < 5; ci++) {
      const c = <i32>load<i8>(AROUND + ci)
      const deep = gap(w, c) * gap(w, c)
      if (deep >= second) continue
      const layer = hashNumber(seed + (k + c))
      for (let bi: usize = 0; bi < 5; bi++) {
        const b = <i32>load<i8>(AROUND + bi)
        const high = deep + gap(v, b) * gap(v, b)
        if (high >= second) continue
        const row = hashNumber(<i32>layer + (j + b))
        for (let ai: usize = 0; ai < 5; ai++) {
          const a = <i32>load<i8>(AROUND + ai)
          if (high + gap(u, a) * gap(u, a) >= second) continue
          const hash = hashNumber(<i32>row + (i + a))
          const three = hashInto(i32x4.splat(<i32>hash), i32x4(1, 2, 3, 0))
          const dx = <f64>a + 0.5 + moved(i32x4.extract_lane(three, 0), jitter) - u
          const dy = <f64>b + 0.5 + moved(i32x4.extract_lane(three, 1), jitter) - v
          const dz = <f64>c + 0.5 + moved(i32x4.extract_lane(three, 2), jitter) - w
          const away = dx * dx + dy * dy + dz * dz
          if (away < nearest) {
            second = nearest
            nearest = away
            found = hash
          } else if (away < second) second = away
        }
      }
    }
    const first = sqrt(nearest)
    if (value) store<f32>(value + (n << 2), <f32>(<f64>(found >>> 8) * 5.9604644775390625e-8))
    if (distance) store<f32>(distance + (n << 2), <f32>first)
    if (border) store<f32>(border + (n << 2), <f32>(sqrt(second) - first))
    if (id) store<u32>(id + (n << 2), found >>> 8)
  }
}
