/**
 * Twin of a Gaussian on every texel (core/kernels/blur.ts) over `rows` rows of `width` texels, a multiple of 4: first down,
 * then along. `source` points at the first of them, with `reach` rows above and below; `taps` are reach + 1 weights, the
 * middle first; `line` has room for width + 2 · reach texels.
 */
export function gaussian(
  source: usize,
  sourceStride: usize,
  out: usize,
  outStride: usize,
  width: i32,
  rows: i32,
  taps: usize,
  reach: i32,
  line: usize,
): void {
  const pad = (<usize>reach) << 2
  const bytes = (<usize>width) << 2
  const row = line + pad
  for (let y = 0; y < rows; y++) {
    convolve(source + <usize>y * sourceStride, sourceStride, row, bytes, taps, reach)
    memory.copy(line, row + bytes - pad, pad)
    memory.copy(row + bytes, row, pad)
    convolve(row, 4, out + <usize>y * outStride, bytes, taps, reach)
  }
}

/** taps[0] · v + the sum of taps[k] · (v₋ₖ + v₊ₖ), `step` bytes being from one value to the next. */
export function convolve(from: usize, step: usize, to: usize, bytes: usize, taps: usize, reach: i32): void {
  const last = taps + ((<usize>reach) << 2)
  let x: usize = 0
  for (; x + 64 <= bytes; x += 64) {
    let before = from + x
    let after = before
    const middle = v128.load_splat<f32>(taps)
    let a = f32x4.mul(middle, v128.load(before))
    let b = f32x4.mul(middle, v128.load(before, 16))
    let c = f32x4.mul(middle, v128.load(before, 32))
    let d = f32x4.mul(middle, v128.load(before, 48))
    for (let tap = taps + 4; tap <= last; tap += 4) {
      before -= step
      after += step
      const weight = v128.load_splat<f32>(tap)
      a = f32x4.add(a, f32x4.mul(weight, f32x4.add(v128.load(before), v128.load(after))))
      b = f32x4.add(b, f32x4.mul(weight, f32x4.add(v128.load(before, 16), v128.load(after, 16))))
      c = f32x4.add(c, f32x4.mul(weight, f32x4.add(v128.load(before, 32), v128.load(after, 32))))
      d = f32x4.add(d, f32x4.mul(weight, f32x4.add(v128.load(before, 48), v128.load(after, 48))))
    }
    v128.store(to + x, a)
    v128.store(to + x, b, 16)
    v128.store(to + x, c, 32)
    v128.store(to + x, d, 48)
  }
  for (; x < bytes; x += 16) {
    let before = from + x
    let after = before
    let a = f32x4.mul(v128.load_splat<f32>(taps), v128.load(before))
    for (let tap = taps + 4; tap <= last; tap += 4) {
      before -= step
      after += step
      a = f32x4.add(a, f32x4.mul(v128.load_splat<f32>(tap), f32x4.add(v128.load(before), v128.load(after))))
    }
    v128.store(to + x, a)
  }
}

/** to += weight · from over `bytes` of values. */
export function addScaled(to: usize, from: usize, weight: f32, bytes: usize): void {
  const w = f32x4.splat(weight)
  for (let x: usize = 0; x < bytes; x += 16)
    v128.store(to + x, f32x4.add(v128.load(to + x), f32x4.mul(w, v128.load(from + x))))
}

/** out = a + t · (b − a) over `bytes` of values. */
export function mixRows(a: usize, b: usize, t: f32, out: usize, bytes: usize): void {
  const w = f32x4.splat(t)
  for (let x: usize = 0; x < bytes; x += 16) {
    const low = v128.load(a + x)
    v128.store(out + x, f32x4.add(low, f32x4.mul(w, f32x4.sub(v128.load(b + x), low))))
  }
}

/** Four values, `step` bytes from one to the next. */
function spaced(at: usize, step: usize): v128 {
  let v = v128.load32_zero(at)
  v = v128.load32_lane(at + step, v, 1)
  v = v128.load32_lane(at + 2 * step, v, 2)
  return v128.load32_lane(at + 3 * step, v, 3)
}

/**
 * Coarse values along a row: each the sum of `count` weights times as many texels, beginning at `row` and `step` bytes
 * further for each value. `bytes` of values are made, a multiple of 16.
 */
export function gatherAlong(row: usize, step: usize, weights: usize, count: i32, out: usize, bytes: usize): void {
  let from = row
  for (let x: usize = 0; x < bytes; x += 16) {
    let sum = f32x4.splat(0)
    for (let j = 0; j < count; j++) {
      const weight = v128.load_splat<f32>(weights + ((<usize>j) << 2))
      sum = f32x4.add(sum, f32x4.mul(weight, spaced(from + ((<usize>j) << 2), step)))
    }
    v128.store(out + x, sum)
    from += 4 * step
  }
}

/** Reads between coarse values: for each texel its index into `line`, in bytes, and the part of the way to the next. */
export function interpolateAlong(line: usize, index: usize, part: usize, out: usize, bytes: usize): void {
  for (let x: usize = 0; x < bytes; x += 16) {
    const i0 = line + <usize>load<i32>(index + x)
    const i1 = line + <usize>load<i32>(index + x, 4)
    const i2 = line + <usize>load<i32>(index + x, 8)
    const i3 = line + <usize>load<i32>(index + x, 12)
    // Each of these is a value and the next one, twice.
    const p01 = v128.load64_lane(i1, v128.load64_zero(i0), 1)
    const p23 = v128.load64_lane(i3, v128.load64_zero(i2), 1)
    const a = v128.shuffle<f32>(p01, p23, 0, 2, 4, 6)
    const b = v128.shuffle<f32>(p01, p23, 1, 3, 5, 7)
    v128.store(out + x, f32x4.add(a, f32x4.mul(v128.load(part + x), f32x4.sub(b, a))))
  }
}
