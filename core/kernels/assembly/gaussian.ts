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
function convolve(from: usize, step: usize, to: usize, bytes: usize, taps: usize, reach: i32): void {
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
