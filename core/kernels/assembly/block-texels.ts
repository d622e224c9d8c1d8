/*
 * The texels of a block as kernels of block compression work on them: sixteen numbers of 0–255 a channel, four vectors, channel after
 * channel; and what all of these kernels need of them. Lines are found by the power method.
 */

/** Bytes of a channel of a block. */
export const PLANE: usize = 64

/** The texels of the block at hand. */
export let texels: usize = 0
/** Four channels relative to their means, and a row of a block that reaches over the border. */
let offAt: usize = 0
let rowAt: usize = 0

/** Sets where the block's texels are kept, and what is worked out of them: 640 bytes from `work` on. */
export function workAt(work: usize): void {
  texels = work
  offAt = work + 256
  rowAt = work + 512
}

export function sum(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3))
}

export function lowest(v: v128): f32 {
  return min(
    min(f32x4.extract_lane(v, 0), f32x4.extract_lane(v, 1)),
    min(f32x4.extract_lane(v, 2), f32x4.extract_lane(v, 3)),
  )
}

/** Reads the block of RGBA bytes at column `bx` and row `by` of blocks; what is over the border repeats the last texels. */
export function readBlock(rgba: usize, width: i32, rows: i32, bx: i32, by: i32): void {
  const zero = i32x4.splat(0)
  for (let y: i32 = 0; y < 4; y++) {
    const row = rgba + <usize>min(rows - 1, by * 4 + y) * <usize>width * 4
    let from = row + <usize>bx * 16
    if (bx * 4 + 4 > width) {
      for (let x: i32 = 0; x < 4; x++)
        store<u32>(rowAt + ((<usize>x) << 2), load<u32>(row + ((<usize>min(width - 1, bx * 4 + x)) << 2)))
      from = rowAt
    }
    const bytes = v128.load(from)
    const to = texels + ((<usize>y) << 4)
    const r = i8x16.shuffle(bytes, zero, 0, 16, 16, 16, 4, 16, 16, 16, 8, 16, 16, 16, 12, 16, 16, 16)
    const g = i8x16.shuffle(bytes, zero, 1, 16, 16, 16, 5, 16, 16, 16, 9, 16, 16, 16, 13, 16, 16, 16)
    const b = i8x16.shuffle(bytes, zero, 2, 16, 16, 16, 6, 16, 16, 16, 10, 16, 16, 16, 14, 16, 16, 16)
    const a = i8x16.shuffle(bytes, zero, 3, 16, 16, 16, 7, 16, 16, 16, 11, 16, 16, 16, 15, 16, 16, 16)
    v128.store(to, f32x4.convert_i32x4_u(r))
    v128.store(to + PLANE, f32x4.convert_i32x4_u(g))
    v128.store(to + 2 * PLANE, f32x4.convert_i32x4_u(b))
    v128.store(to + 3 * PLANE, f32x4.convert_i32x4_u(a))
  }
}

/** Sum of products of two channels over the texels that count. */
function product(a: usize, b: usize, counted: usize): f32 {
  let all = f32x4.splat(0)
  for (let q: usize = 0; q < PLANE; q += 16)
    all = f32x4.add(all, f32x4.mul(v128.load(counted + q), f32x4.mul(v128.load(a + q), v128.load(b + q))))
  return sum(all)
}

/**
 * The line that texels lie along, in channels 0 to `channels` of `planes`: where it begins and where it ends, of 0–255, are put at `ends`,
 * four numbers each. `counted` has 1 for texels that count and 0 for others, sixteen numbers.
 */
export function lineThrough(planes: usize, counted: usize, channels: i32, ends: usize): void {
  let count = f32x4.splat(0)
  for (let q: usize = 0; q < PLANE; q += 16) count = f32x4.add(count, v128.load(counted + q))
  const n = sum(count)
  // Of the mean on, so that products stay small enough to be told apart.
  let mx: f32 = 0
  let my: f32 = 0
  let mz: f32 = 0
  let mw: f32 = 0
  for (let c: i32 = 0; c < channels; c++) {
    const plane = planes + <usize>c * PLANE
    let all = f32x4.splat(0)
    for (let q: usize = 0; q < PLANE; q += 16)
      all = f32x4.add(all, f32x4.mul(v128.load(plane + q), v128.load(counted + q)))
    const mean = sum(all) / n
    for (let q: usize = 0; q < PLANE; q += 16)
      v128.store(offAt + <usize>c * PLANE + q, f32x4.sub(v128.load(plane + q), f32x4.splat(mean)))
    if (c == 0) mx = mean
    else if (c == 1) my = mean
    else if (c == 2) mz = mean
    else mw = mean
  }
  const x = offAt
  const y = offAt + PLANE
  const z = offAt + 2 * PLANE
  const w = offAt + 3 * PLANE
  const xx = product(x, x, counted)
  const xy = product(x, y, counted)
  const yy = product(y, y, counted)
  const xz: f32 = channels > 2 ? product(x, z, counted) : 0
  const yz: f32 = channels > 2 ? product(y, z, counted) : 0
  const zz: f32 = channels > 2 ? product(z, z, counted) : 0
  const xw: f32 = channels > 3 ? product(x, w, counted) : 0
  const yw: f32 = channels > 3 ? product(y, w, counted) : 0
  const zw: f32 = channels > 3 ? product(z, w, counted) : 0
  const ww: f32 = channels > 3 ? product(w, w, counted) : 0
  // Begins with the row of the channel that varies most, which is not across the line.
  const most = max(max(xx, yy), max(zz, ww))
  let ax = most == xx ? xx : most == yy ? xy : most == zz ? xz : xw
  let ay = most == xx ? xy : most == yy ? yy : most == zz ? yz : yw
  let az = most == xx ? xz : most == yy ? yz : most == zz ? zz : zw
  let aw = most == xx ? xw : most == yy ? yw : most == zz ? zw : ww
  for (let round: i32 = 0; round < 5; round++) {
    const nx = xx * ax + xy * ay + xz * az + xw * aw
    const ny = xy * ax + yy * ay + yz * az + yw * aw
    const nz = xz * ax + yz * ay + zz * az + zw * aw
    const nw = xw * ax + yw * ay + zw * az + ww * aw
    const square = nx * nx + ny * ny + nz * nz + nw * nw
    const scale: f32 = square > 0 ? <f32>1 / Mathf.sqrt(square) : 0
    ax = nx * scale
    ay = ny * scale
    az = nz * scale
    aw = nw * scale
  }
  let from = f32x4.splat(1e9)
  let to = f32x4.splat(-1e9)
  for (let q: usize = 0; q < PLANE; q += 16) {
    let along = f32x4.add(f32x4.mul(v128.load(x + q), f32x4.splat(ax)), f32x4.mul(v128.load(y + q), f32x4.splat(ay)))
    if (channels > 2) along = f32x4.add(along, f32x4.mul(v128.load(z + q), f32x4.splat(az)))
    if (channels > 3) along = f32x4.add(along, f32x4.mul(v128.load(w + q), f32x4.splat(aw)))
    const counts = f32x4.gt(v128.load(counted + q), f32x4.splat(0))
    from = f32x4.pmin(from, v128.bitselect(along, f32x4.splat(1e9), counts))
    to = f32x4.pmax(to, v128.bitselect(along, f32x4.splat(-1e9), counts))
  }
  const first = lowest(from)
  const last = -lowest(f32x4.neg(to))
  putEnd(ends, mx, ax, first, last)
  putEnd(ends + 4, my, ay, first, last)
  putEnd(ends + 8, mz, az, first, last)
  putEnd(ends + 12, mw, aw, first, last)
}

function putEnd(to: usize, mean: f32, axis: f32, first: f32, last: f32): void {
  store<f32>(to, within(mean + axis * first))
  store<f32>(to + 16, within(mean + axis * last))
}

/** A value held to 0–255. */
export function within(v: f32): f32 {
  return max<f32>(0, min<f32>(255, v))
}
