import { boundedNumber } from './lanes'
import { readRow } from './read-places'
import { addRow } from './walk'

/**
 * Row `row` of a field turned and scaled about the middle of the source, as core/kernels/transform.ts defines it: the mean of
 * `fine` × `fine` places a texel. `room` has room for two rows of float64 places, one of sums, and a row of values.
 */
export function transformRow(
  plane: usize,
  width: i32,
  height: i32,
  first: i32,
  rows: i32,
  row: f64,
  a: f64,
  b: f64,
  c: f64,
  d: f64,
  mx: f64,
  my: f64,
  fine: i32,
  room: usize,
  out: usize,
): void {
  const parts = <f64>fine
  const line = (<usize>(width + 2)) << 3
  const px = room
  const py = px + line
  const sums = py + line
  const values = sums + line
  memory.fill(sums, 0, line)
  for (let j = 0; j < fine; j++) {
    const y = row + (<f64>j + 0.5) / parts - my
    for (let i = 0; i < fine; i++) {
      turnedPlaces(px, py, width, (<f64>i + 0.5) / parts, mx, y, a, b, c, d, <f64>width / 2, <f64>height / 2)
      readRow(plane, width, height, first, rows, px, py, values)
      addRow(values, sums, width)
    }
  }
  for (let x = 0; x < width; x++)
    store<f32>(out + ((<usize>x) << 2), boundedNumber(load<f64>(sums + ((<usize>x) << 3)) / (parts * parts)))
}

/** Where the texels of a row come from: turned, scaled and moved, in texels. */
function turnedPlaces(
  px: usize,
  py: usize,
  width: i32,
  part: f64,
  mx: f64,
  y: f64,
  a: f64,
  b: f64,
  c: f64,
  d: f64,
  halfWidth: f64,
  halfHeight: f64,
): void {
  const half = f64x2.splat(0.5)
  const by = f64x2.splat(b * y)
  const dy = f64x2.splat(d * y)
  let column = f64x2(0, 1)
  for (let at: usize = 0; at < (<usize>width) << 3; at += 16) {
    const x = f64x2.sub(f64x2.add(column, f64x2.splat(part)), f64x2.splat(mx))
    const across = f64x2.add(f64x2.add(f64x2.mul(f64x2.splat(a), x), by), f64x2.splat(halfWidth))
    const down = f64x2.add(f64x2.add(f64x2.mul(f64x2.splat(c), x), dy), f64x2.splat(halfHeight))
    v128.store(px + at, f64x2.sub(across, half))
    v128.store(py + at, f64x2.sub(down, half))
    column = f64x2.add(column, f64x2.splat(2))
  }
}
