/**
 * Twin of fillRims in core/mesh/seams/rims.ts, of one round: `texels` (u32) and five f32 each of `reads`; `some` (u32) are the numbers of
 * those that are looked at, or all `count` where that is 0. `planes` are offsets; `known` (u8) by texel.
 */
export function fillRims(
  texels: usize,
  reads: usize,
  some: usize,
  count: i32,
  planes: usize,
  planeCount: i32,
  known: usize,
  width: i32,
  isTurned: bool,
  isUnit: bool,
  own: usize,
): void {
  for (let n: usize = 0; n < <usize>count; n++) {
    const i = some ? <usize>load<u32>(some + (n << 2)) : n
    const read = reads + i * 20
    const x = <f64>load<f32>(read)
    const y = <f64>load<f32>(read, 4)
    const column = Math.floor(x)
    const row = Math.floor(y)
    const fx = x - column
    const fy = y - row
    const first = <usize>(<i32>row * width + <i32>column)
    const right: usize = fx > 0 ? 1 : 0
    const below: usize = fy > 0 ? <usize>width : 0
    const at = known + first
    if (!load<u8>(at) || !load<u8>(at + right) || !load<u8>(at + below) || !load<u8>(at + below + right)) continue
    for (let p: usize = 0; p < <usize>planeCount; p++) {
      const plane = <usize>load<u32>(planes + (p << 2)) + (first << 2)
      const upper = <f64>load<f32>(plane) * (1 - fx) + <f64>load<f32>(plane + (right << 2)) * fx
      const low = plane + (below << 2)
      const lower = <f64>load<f32>(low) * (1 - fx) + <f64>load<f32>(low + (right << 2)) * fx
      store<f32>(own + (p << 2), <f32>(upper * (1 - fy) + lower * fy))
    }
    if (isTurned) {
      const cosine = <f64>load<f32>(read, 8)
      const sine = <f64>load<f32>(read, 12)
      const u = <f64>load<f32>(own)
      const v = -(<f64>load<f32>(own, 4))
      store<f32>(own, <f32>(cosine * u + sine * v))
      store<f32>(own, <f32>-(<f64>load<f32>(read, 16) * (cosine * v - sine * u)), 4)
    }
    let length: f64 = 1
    if (isUnit) {
      const a = <f64>load<f32>(own)
      const b = <f64>load<f32>(own, 4)
      const c = <f64>load<f32>(own, 8)
      length = Math.sqrt(a * a + b * b + c * c)
    }
    // Directions that cancel each other out tell none.
    if (length < 1e-6) continue
    const texel = <usize>load<u32>(texels + (i << 2))
    for (let p: usize = 0; p < <usize>planeCount; p++)
      store<f32>(<usize>load<u32>(planes + (p << 2)) + (texel << 2), <f32>(<f64>load<f32>(own + (p << 2)) / length + 0))
    store<u8>(known + texel, 1)
  }
}
