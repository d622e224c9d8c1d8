/** Twins of core/texture/pack-rows.ts, bytes/quantise.ts, bytes/deflate.ts and formats/png.ts. */

/**
 * Values of a slot on their way into a file: v, or v/2 + 1/2 where `halved`, or (v − ½) · `metres` where that is not 0; then 1 − v, or
 * −v, where `invert` is 1 or 2. `range` holds the least and greatest value as float64.
 */
export function packValues(
  source: usize,
  out: usize,
  count: i32,
  halved: bool,
  metres: f64,
  invert: i32,
  range: usize,
): void {
  let min = load<f64>(range)
  let max = load<f64>(range, 8)
  for (let at: usize = 0; at < (<usize>count) << 2; at += 4) {
    let v = <f64>load<f32>(source + at)
    if (halved) v = v * 0.5 + 0.5
    if (metres != 0) v = (v - 0.5) * metres
    if (invert == 1) v = 1 - v
    else if (invert == 2) v = -v
    if (v < min) min = v
    if (v > max) max = v
    store<f32>(out + at, <f32>v)
  }
  store<f64>(range, min)
  store<f64>(range, max, 8)
}

/** A row of floats, written every `slots` floats from `out` on. */
export function interleave(values: usize, out: usize, count: i32, slots: i32): void {
  const step = (<usize>slots) << 2
  let to = out
  for (let at: usize = 0; at < (<usize>count) << 2; at += 4) {
    store<f32>(to, load<f32>(values + at))
    to += step
  }
}

/**
 * Twin of quantise for one slot of a row: whole steps of `bits`, written every `slots` steps from `out` on. `thresholds` holds eight
 * float64, for the columns modulo 8.
 */
export function steps(values: usize, out: usize, count: i32, slots: i32, bits: i32, thresholds: usize): void {
  const max: f64 = bits == 8 ? 255 : 65535
  const step = (<usize>slots) << (bits == 8 ? 0 : 1)
  let to = out
  for (let x = 0; x < count; x++) {
    const threshold = load<f64>(thresholds + ((<usize>(x & 7)) << 3))
    const v = Math.floor(<f64>load<f32>(values + ((<usize>x) << 2)) * max + threshold)
    const held = <i32>(v < 0 ? 0 : v > max ? max : v)
    if (bits == 8) store<u8>(to, <u8>held)
    else store<u16>(to, <u16>held)
    to += step
  }
}

/** Pairs of bytes change places. */
export function swapBytes(source: usize, out: usize, bytes: i32): void {
  const order = i8x16(1, 0, 3, 2, 5, 4, 7, 6, 9, 8, 11, 10, 13, 12, 15, 14)
  for (let at: usize = 0; at < <usize>bytes; at += 16)
    v128.store(out + at, i8x16.swizzle(v128.load(source + at), order))
}

function differenceOf(a: v128, b: v128): v128 {
  return i8x16.sub(i8x16.max_u(a, b), i8x16.min_u(a, b))
}

/** Paeth's choice among the byte before, above and above before. */
function paeth(a: v128, b: v128, c: v128): v128 {
  const pa = differenceOf(b, c)
  const pb = differenceOf(a, c)
  // |a + b − 2c|: the two differences added where both lie to one side of c; as much as a byte holds is enough.
  const sameSide = v128.or(v128.and(i8x16.ge_u(a, c), i8x16.ge_u(b, c)), v128.and(i8x16.le_u(a, c), i8x16.le_u(b, c)))
  const pc = v128.bitselect(i8x16.add_sat_u(pa, pb), differenceOf(pa, pb), sameSide)
  const isA = v128.and(i8x16.le_u(pa, pb), i8x16.le_u(pa, pc))
  return v128.bitselect(a, v128.bitselect(b, c, i8x16.le_u(pb, pc)), isA)
}

function average(a: v128, b: v128): v128 {
  return i8x16.sub(i8x16.avgr_u(a, b), v128.and(v128.xor(a, b), i8x16.splat(1)))
}

/** Adds the sizes of signed bytes to four sums; `kept` is 255 where a byte counts. */
function sized(sum: v128, difference: v128, kept: v128): v128 {
  const pairs = i16x8.extadd_pairwise_i8x16_u(v128.and(i8x16.abs(difference), kept))
  return i32x4.add(sum, i32x4.extadd_pairwise_i16x8_u(pairs))
}

function total(sum: v128): i32 {
  return (
    i32x4.extract_lane(sum, 0) + i32x4.extract_lane(sum, 1) + i32x4.extract_lane(sum, 2) + i32x4.extract_lane(sum, 3)
  )
}

/**
 * A row of PNG under the filter whose bytes are the smallest, that one's number before it. Before `row` and `above` stand 16 bytes of
 * 0 each; both and `out` have room for whole vectors. Gives the filter's number.
 */
export function filterRow(row: usize, above: usize, texel: usize, out: usize, length: i32): void {
  let none = i32x4.splat(0)
  let sub = none
  let up = none
  let mean = none
  let chosen = none
  const end = <usize>length
  for (let at: usize = 0; at < end; at += 16) {
    const v = v128.load(row + at)
    const a = v128.load(row + at - texel)
    const b = v128.load(above + at)
    const c = v128.load(above + at - texel)
    const kept = at + 16 <= end ? i8x16.splat(-1) : firstBytes(<i32>(end - at))
    none = sized(none, v, kept)
    sub = sized(sub, i8x16.sub(v, a), kept)
    up = sized(up, i8x16.sub(v, b), kept)
    mean = sized(mean, i8x16.sub(v, average(a, b)), kept)
    chosen = sized(chosen, i8x16.sub(v, paeth(a, b, c)), kept)
  }
  let filter = 0
  let min = total(none)
  if (total(sub) < min) {
    filter = 1
    min = total(sub)
  }
  if (total(up) < min) {
    filter = 2
    min = total(up)
  }
  if (total(mean) < min) {
    filter = 3
    min = total(mean)
  }
  if (total(chosen) < min) filter = 4
  store<u8>(out, <u8>filter)
  for (let at: usize = 0; at < end; at += 16) {
    const v = v128.load(row + at)
    const a = v128.load(row + at - texel)
    const b = v128.load(above + at)
    let w = v
    if (filter == 1) w = i8x16.sub(v, a)
    else if (filter == 2) w = i8x16.sub(v, b)
    else if (filter == 3) w = i8x16.sub(v, average(a, b))
    else if (filter == 4) w = i8x16.sub(v, paeth(a, b, v128.load(above + at - texel)))
    v128.store(out + at + 1, w)
  }
}

/** A mask of the first bytes of a vector. */
function firstBytes(count: i32): v128 {
  return i8x16.lt_u(i8x16(0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15), i8x16.splat(<i8>count))
}

/** Even bytes first, then odd ones (core/texture/bytes/predict.ts). */
export function splitBytes(bytes: usize, count: i32, out: usize): void {
  const odds = out + <usize>((count + 1) >> 1)
  let i: usize = 0
  for (; i + 32 <= <usize>count; i += 32) {
    const a = v128.load(bytes + i)
    const b = v128.load(bytes + i, 16)
    v128.store(out + (i >> 1), v128.shuffle<u8>(a, b, 0, 2, 4, 6, 8, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 30))
    v128.store(odds + (i >> 1), v128.shuffle<u8>(a, b, 1, 3, 5, 7, 9, 11, 13, 15, 17, 19, 21, 23, 25, 27, 29, 31))
  }
  for (; i < <usize>count; i++) store<u8>((i & 1 ? odds : out) + (i >> 1), load<u8>(bytes + i))
}

/** The first byte, and of each other its difference to the one before, about 128. */
export function differences(bytes: usize, count: i32, out: usize): void {
  if (count == 0) return
  store<u8>(out, load<u8>(bytes))
  const middle = i8x16.splat(-128)
  let i: usize = 1
  for (; i + 16 <= <usize>count; i += 16)
    v128.store(out + i, i8x16.add(i8x16.sub(v128.load(bytes + i), v128.load(bytes + i - 1)), middle))
  for (; i < <usize>count; i++) store<u8>(out + i, <u8>(<i32>load<u8>(bytes + i) - <i32>load<u8>(bytes + i - 1) + 128))
}

/** Twin of adler32. Gives it at `out`. */
export function adler(bytes: usize, count: i32, out: usize): void {
  let a: u32 = 1
  let b: u32 = 0
  let at = bytes
  let left = count
  while (left > 0) {
    const run = left < 5552 ? left : 5552
    for (let i = 0; i < run; i++) {
      a += load<u8>(at + <usize>i)
      b += a
    }
    a %= 65521
    b %= 65521
    at += <usize>run
    left -= run
  }
  store<u32>(out, (b << 16) | a)
}

/** Checksum of PNG's chunks, eight bytes at a time; `tables` holds eight tables of 256 words. Gives it at `out`. */
export function crc(bytes: usize, count: i32, tables: usize, out: usize): void {
  let c: u32 = 0xffffffff
  let at = bytes
  const end = bytes + <usize>count
  for (; at + 8 <= end; at += 8) {
    const low = load<u32>(at) ^ c
    const high = load<u32>(at, 4)
    c =
      entry(tables, 7, low & 255) ^
      entry(tables, 6, (low >>> 8) & 255) ^
      entry(tables, 5, (low >>> 16) & 255) ^
      entry(tables, 4, low >>> 24) ^
      entry(tables, 3, high & 255) ^
      entry(tables, 2, (high >>> 8) & 255) ^
      entry(tables, 1, (high >>> 16) & 255) ^
      entry(tables, 0, high >>> 24)
  }
  for (; at < end; at++) c = entry(tables, 0, (c ^ load<u8>(at)) & 255) ^ (c >>> 8)
  store<u32>(out, c ^ 0xffffffff)
}

function entry(tables: usize, table: u32, i: u32): u32 {
  return load<u32>(tables + ((<usize>((table << 8) + i)) << 2))
}
