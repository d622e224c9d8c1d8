/** Twins of boxDown and boxAlong (core/kernels/blur.ts), in float32. `bytes` is a multiple of 16. */

/** sums += row. */
export function addToSums(sums: usize, row: usize, bytes: usize): void {
  for (let x: usize = 0; x < bytes; x += 16) v128.store(sums + x, f32x4.add(v128.load(sums + x), v128.load(row + x)))
}

/** sums = (sums + enter) − leave. */
export function moveSums(sums: usize, enter: usize, leave: usize, bytes: usize): void {
  for (let x: usize = 0; x < bytes; x += 16)
    v128.store(sums + x, f32x4.sub(f32x4.add(v128.load(sums + x), v128.load(enter + x)), v128.load(leave + x)))
}

/** scale · (sums + edge · (above + below)). */
export function boxedRow(
  sums: usize,
  above: usize,
  below: usize,
  edge: f32,
  scale: f32,
  out: usize,
  bytes: usize,
): void {
  const e = f32x4.splat(edge)
  const s = f32x4.splat(scale)
  for (let x: usize = 0; x < bytes; x += 16) {
    const ends = f32x4.mul(e, f32x4.add(v128.load(above + x), v128.load(below + x)))
    v128.store(out + x, f32x4.mul(s, f32x4.add(v128.load(sums + x), ends)))
  }
}

/** A row by sums that start anew every `block` texels; `row` points at its first texel, whole + 1 more stand on both sides. */
export function boxAlong(row: usize, out: usize, width: i32, whole: i32, edge: f32, scale: f32, block: i32): void {
  const far = (<usize>(whole + 1)) << 2
  let sum: f32 = 0
  for (let x = 0; x < width; x++) {
    const at = row + ((<usize>x) << 2)
    if (x % block == 0) {
      sum = 0
      for (let near = at - far + 4; near < at + far; near += 4) sum += load<f32>(near)
    } else sum = sum + load<f32>(at + far - 4) - load<f32>(at - far)
    store<f32>(out + ((<usize>x) << 2), scale * (sum + edge * (load<f32>(at - far) + load<f32>(at + far))))
  }
}
