/**
 * Twin of horizonOcclusion (core/kernels/horizon.ts) over `rows` rows of `width` texels, a multiple of 4. `heights` points
 * at the first of them; the rows and columns that looks reach stand around it. `looks` holds for each look its distance in
 * bytes and the tangent of a height of 1 there; `counts` how many looks each direction has.
 */
export function occlusion(
  heights: usize,
  heightStride: usize,
  out: usize,
  outStride: usize,
  width: i32,
  rows: i32,
  looks: usize,
  counts: usize,
  directions: i32,
  scale: f32,
): void {
  const end = (<usize>width) << 2
  for (let y = 0; y < rows; y++) {
    const here = heights + <usize>y * heightStride
    const there = out + <usize>y * outStride
    let x: usize = 0
    // The steepest looks of 16 texels stay in registers.
    for (; x + 64 <= end; x += 64) {
      const at = here + x
      const h0 = v128.load(at)
      const h1 = v128.load(at, 16)
      const h2 = v128.load(at, 32)
      const h3 = v128.load(at, 48)
      let s0 = f32x4.splat(0)
      let s1 = s0
      let s2 = s0
      let s3 = s0
      let look = looks
      for (let d = 0; d < directions; d++) {
        let t0 = f32x4.splat(0)
        let t1 = t0
        let t2 = t0
        let t3 = t0
        const last = look + ((<usize>load<i32>(counts + ((<usize>d) << 2))) << 3)
        for (; look < last; look += 8) {
          const to = at + <usize>load<i32>(look)
          const slope = v128.load_splat<f32>(look, 4)
          t0 = f32x4.pmax(t0, f32x4.mul(f32x4.sub(v128.load(to), h0), slope))
          t1 = f32x4.pmax(t1, f32x4.mul(f32x4.sub(v128.load(to, 16), h1), slope))
          t2 = f32x4.pmax(t2, f32x4.mul(f32x4.sub(v128.load(to, 32), h2), slope))
          t3 = f32x4.pmax(t3, f32x4.mul(f32x4.sub(v128.load(to, 48), h3), slope))
        }
        s0 = f32x4.add(s0, hidden(t0))
        s1 = f32x4.add(s1, hidden(t1))
        s2 = f32x4.add(s2, hidden(t2))
        s3 = f32x4.add(s3, hidden(t3))
      }
      v128.store(there + x, open(s0, scale))
      v128.store(there + x, open(s1, scale), 16)
      v128.store(there + x, open(s2, scale), 32)
      v128.store(there + x, open(s3, scale), 48)
    }
    for (; x < end; x += 16) {
      const at = here + x
      const h = v128.load(at)
      let s = f32x4.splat(0)
      let look = looks
      for (let d = 0; d < directions; d++) {
        let t = f32x4.splat(0)
        const last = look + ((<usize>load<i32>(counts + ((<usize>d) << 2))) << 3)
        for (; look < last; look += 8) {
          const to = at + <usize>load<i32>(look)
          t = f32x4.pmax(t, f32x4.mul(f32x4.sub(v128.load(to), h), v128.load_splat<f32>(look, 4)))
        }
        s = f32x4.add(s, hidden(t))
      }
      v128.store(there + x, open(s, scale))
    }
  }
}

/** sin² of an elevation by its tangent. */
function hidden(tangent: v128): v128 {
  const square = f32x4.mul(tangent, tangent)
  return f32x4.div(square, f32x4.add(f32x4.splat(1), square))
}

function open(sum: v128, scale: f32): v128 {
  return f32x4.pmax(f32x4.sub(f32x4.splat(1), f32x4.mul(f32x4.splat(scale), sum)), f32x4.splat(0))
}
