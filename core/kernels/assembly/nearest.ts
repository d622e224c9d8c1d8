/**
 * Twin of core/mesh/padding.ts: for every texel the nearest that is covered. Source: P. Felzenszwalb, D. Huttenlocher, "Distance
 * transforms of sampled functions", 2012, carrying along what it is a distance to.
 */

/**
 * For every texel the row of the nearest covered one in its column (i32), −1 where there is none; of two equally near the upper.
 * `covered` (u8) is 0 where a texel is not; `last` has room for a row.
 */
export function nearestRows(covered: usize, out: usize, last: usize, width: i32, height: i32): void {
  const line = (<usize>width) << 2
  memory.fill(last, 0xff, line)
  for (let y = 0; y < height; y++) {
    const from = covered + <usize>(y * width)
    const to = out + <usize>y * line
    for (let x: usize = 0; x < <usize>width; x++) {
      if (load<u8>(from + x)) store<i32>(last + (x << 2), y)
      store<i32>(to + (x << 2), load<i32>(last + (x << 2)))
    }
  }
  memory.fill(last, 0xff, line)
  for (let y = height - 1; y >= 0; y--) {
    const from = covered + <usize>(y * width)
    const to = out + <usize>y * line
    for (let x: usize = 0; x < <usize>width; x++) {
      const at = x << 2
      if (load<u8>(from + x)) store<i32>(last + at, y)
      const up = load<i32>(to + at)
      const next = load<i32>(last + at)
      if (next >= 0 && (up < 0 || next - y < y - up)) store<i32>(to + at, next)
    }
  }
}

/**
 * Rows `from` to `to` of the nearest texels (i32 numbers, −1 beyond `limit`, squared, or where there is none), by the lower envelope of the
 * columns' parabolas; `texels` holds the rows of nearestRows, which are written over. `heights`, `ends` (f64) and `sites` (two i32) have
 * room for a row.
 */
export function nearestTexels(
  texels: usize,
  from: i32,
  to: i32,
  width: i32,
  limit: f64,
  heights: usize,
  ends: usize,
  sites: usize,
): void {
  for (let y = from; y < to; y++) {
    const out = texels + ((<usize>(y * width)) << 2)
    const count = envelope(out, y, width, heights, ends, sites)
    if (count == 0) continue
    let k: usize = 0
    for (let x = 0; x < width; x++) {
      while (k + 8 < count && load<f64>(ends + k, 8) < <f64>x) k += 8
      const site = load<i32>(sites + k)
      const aside = <f64>(x - site)
      const away = load<f64>(heights + k) - <f64>site * <f64>site + aside * aside
      store<i32>(out + ((<usize>x) << 2), away <= limit ? load<i32>(sites + k, 4) * width + site : -1)
    }
  }
}

/** The columns nearest somewhere in a row, from left to right, and from where on each is; gives eight times their count. */
function envelope(rows: usize, y: i32, width: i32, heights: usize, ends: usize, sites: usize): usize {
  let count: usize = 0
  for (let x = 0; x < width; x++) {
    const row = load<i32>(rows + ((<usize>x) << 2))
    if (row < 0) continue
    const down = <f64>(row - y)
    // How high the parabola of the column is at column 0.
    const height = down * down + <f64>x * <f64>x
    let at: f64 = -Infinity
    while (count > 0) {
      const last = count - 8
      at = (height - load<f64>(heights + last)) / <f64>(2 * (x - load<i32>(sites + last)))
      if (at > load<f64>(ends + last)) break
      count = last
      at = -Infinity
    }
    store<i32>(sites + count, x)
    store<i32>(sites + count, row, 4)
    store<f64>(heights + count, height)
    store<f64>(ends + count, at)
    count += 8
  }
  return count
}
