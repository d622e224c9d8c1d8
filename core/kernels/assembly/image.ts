/**
 * Twin of a row of a level that is read bilinearly (readLevel in core/kernels/image-sampling.ts). `upper` and `lower` are its two
 * rows of texels, four float32 each; for each place `left` and `right` are where its texels lie in them, in bytes, and `across`
 * the part of the way. Gives four float64 a place; where `fraction` is not 0, mixed so far into what is there.
 */
export function readTexels(
  upper: usize,
  lower: usize,
  left: usize,
  right: usize,
  across: usize,
  down: f64,
  out: usize,
  count: i32,
  fraction: f64,
): void {
  const ty = f64x2.splat(down)
  const t = f64x2.splat(fraction)
  for (let i = 0; i < count; i++) {
    const x0 = <usize>load<i32>(left + ((<usize>i) << 2))
    const x1 = <usize>load<i32>(right + ((<usize>i) << 2))
    const tx = v128.load_splat<f64>(across + ((<usize>i) << 3))
    const to = out + ((<usize>i) << 5)
    for (let half: usize = 0; half < 2; half++) {
      const a = f64x2.promote_low_f32x4(v128.load64_zero(upper + x0 + (half << 3)))
      const b = f64x2.promote_low_f32x4(v128.load64_zero(lower + x0 + (half << 3)))
      const c = f64x2.promote_low_f32x4(v128.load64_zero(upper + x1 + (half << 3)))
      const d = f64x2.promote_low_f32x4(v128.load64_zero(lower + x1 + (half << 3)))
      const top = f64x2.add(a, f64x2.mul(f64x2.sub(c, a), tx))
      const low = f64x2.add(b, f64x2.mul(f64x2.sub(d, b), tx))
      let v = f64x2.add(top, f64x2.mul(f64x2.sub(low, top), ty))
      if (fraction != 0) {
        const known = v128.load(to + (half << 4))
        v = f64x2.add(known, f64x2.mul(f64x2.sub(v, known), t))
      }
      v128.store(to + (half << 4), v)
    }
  }
}

/** What the image node makes of a row of texels over its ground; outputs that nobody asks for are 0. */
export function overGround(
  texels: usize,
  count: i32,
  red: f64,
  green: f64,
  blue: f64,
  outRed: usize,
  outGreen: usize,
  outBlue: usize,
  grey: usize,
  alpha: usize,
): void {
  for (let i = 0; i < count; i++) {
    const from = texels + ((<usize>i) << 5)
    const at = (<usize>i) << 2
    const a = load<f64>(from, 24)
    const clear = 1 - a
    const r = held(load<f64>(from) + clear * red)
    const g = held(load<f64>(from, 8) + clear * green)
    const b = held(load<f64>(from, 16) + clear * blue)
    if (outRed) {
      store<f32>(outRed + at, <f32>r)
      store<f32>(outGreen + at, <f32>g)
      store<f32>(outBlue + at, <f32>b)
    }
    // Not within a conversion to float32: the weights would be float32 then.
    const luminance: f64 = 0.2126 * r + 0.7152 * g + 0.0722 * b
    if (grey) store<f32>(grey + at, <f32>(luminance + 0))
    if (alpha) store<f32>(alpha + at, <f32>(a + 0))
  }
}

/** bounded (core/field/limits.ts) of a number that is used further. */
function held(v: f64): f64 {
  if (v > 1e18) return 1e18
  if (v < -1e18) return -1e18
  return v == v ? v + 0 : 0
}
