/**
 * Twin of a row of stripeRows (core/kernels/stripes.ts): the phase at `phase` and the brightness at `out`, either of which may be
 * 0. `along` is what the row adds to the stripes crossed so far.
 */
export function stripesRow(
  out: usize,
  phase: usize,
  width: i32,
  across: f64,
  down: f64,
  offset: f64,
  coverage: f64,
  pitch: f64,
  edge: f64,
): void {
  for (let x = 0; x < width; x++) {
    const at = (<usize>x) << 2
    const along = ((<f64>x + 0.5) / <f64>width) * across + down - offset
    const t = along - Math.floor(along)
    if (phase) store<f32>(phase + at, <f32>t)
    if (!out) continue
    let bright: f64
    if (coverage <= 0) bright = 0
    else if (coverage >= 1) bright = 1
    else {
      const fraction = 0.5 + ((coverage / 2 - Math.abs(t - 0.5)) * pitch) / edge
      bright = fraction < 0 ? 0 : fraction > 1 ? 1 : fraction
    }
    store<f32>(out + at, <f32>bright)
  }
}
