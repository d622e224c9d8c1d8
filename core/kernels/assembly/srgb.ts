import { bounded } from './lanes'

/** Twin of decodedTexel (core/kernels/srgb.ts) for `count` values, rounded up to a multiple of 4. */
export function decodeSrgb(source: usize, out: usize, count: i32): void {
  for (let i: usize = 0; i < (<usize>count) << 2; i += 16) {
    const v = v128.load(source + i)
    const a = f32x4.abs(v)
    let w = f32x4.mul(f32x4.add(a, f32x4.splat(0.055)), f32x4.splat(0.9478673338890076))
    let scale = f32x4.splat(1)
    if (v128.any_true(f32x4.gt(w, f32x4.splat(1)))) {
      const w0 = w
      w = lowered(w0, 1073741824, 9.313225746154785e-10)
      scale = raised(scale, w0, 1073741824, 4.722366482869645e21)
      const w1 = w
      w = lowered(w1, 32768, 0.000030517578125)
      scale = raised(scale, w1, 32768, 68719476736)
      const w2 = w
      w = lowered(w2, 256, 0.0078125)
      scale = raised(scale, w2, 256, 114104.8046875)
      const w3 = w
      w = lowered(w3, 16, 0.0625)
      scale = raised(scale, w3, 16, 776.046875)
      const w4 = w
      w = lowered(w4, 4, 0.25)
      scale = raised(scale, w4, 4, 27.85761833190918)
      const w5 = w
      w = lowered(w5, 1, 0.25)
      scale = raised(scale, w5, 1, 27.85761833190918)
    }
    const t = f32x4.sqrt(w)
    const u = f32x4.sub(t, f32x4.splat(1))
    let q = f32x4.splat(-0.19867056608200073)
    q = f32x4.add(f32x4.mul(u, q), f32x4.splat(-0.4226851165294647))
    q = f32x4.add(f32x4.mul(u, q), f32x4.splat(-0.4128063917160034))
    q = f32x4.add(f32x4.mul(u, q), f32x4.splat(-0.1927693486213684))
    q = f32x4.add(f32x4.mul(u, q), f32x4.splat(-0.0752120241522789))
    q = f32x4.add(f32x4.mul(u, q), f32x4.splat(0.023164808750152588))
    q = f32x4.add(f32x4.mul(u, q), f32x4.splat(-0.08065123111009598))
    q = f32x4.add(f32x4.mul(u, q), f32x4.splat(0.799983561038971))
    q = f32x4.add(f32x4.mul(u, q), f32x4.splat(1))
    const square = f32x4.mul(t, t)
    const y = f32x4.mul(f32x4.mul(f32x4.mul(square, square), q), scale)
    const toe = f32x4.mul(v, f32x4.splat(0.07739938050508499))
    v128.store(out + i, bounded(v128.bitselect(toe, signed(y, v), f32x4.le(a, f32x4.splat(0.04045)))))
  }
}

/** Twin of encodedTexel for `count` values, rounded up to a multiple of 4; then bounded. */
export function encodeSrgb(source: usize, out: usize, count: i32): void {
  for (let i: usize = 0; i < (<usize>count) << 2; i += 16) v128.store(out + i, bounded(encoded(v128.load(source + i))))
}

/** Twin of encodedTexel. */
export function encoded(v: v128): v128 {
  const a = f32x4.abs(v)
  let x = a
  let scale = f32x4.splat(1)
  if (v128.any_true(f32x4.gt(x, f32x4.splat(1)))) {
    const x0 = x
    x = lowered(x0, 4294967296, 2.3283064365386963e-10)
    scale = raised(scale, x0, 4294967296, 10321.2734375)
    const x1 = x
    x = lowered(x1, 65536, 0.0000152587890625)
    scale = raised(scale, x1, 65536, 101.59366607666016)
    const x2 = x
    x = lowered(x2, 256, 0.00390625)
    scale = raised(scale, x2, 256, 10.079368591308594)
    const x3 = x
    x = lowered(x3, 1, 0.00390625)
    scale = raised(scale, x3, 1, 10.079368591308594)
  }
  const r = f32x4.sqrt(f32x4.sqrt(f32x4.sqrt(x)))
  const u = f32x4.sub(r, f32x4.splat(1))
  let q = f32x4.splat(0.17153365910053253)
  q = f32x4.add(f32x4.mul(u, q), f32x4.splat(0.15845569968223572))
  q = f32x4.add(f32x4.mul(u, q), f32x4.splat(0.12508516013622284))
  q = f32x4.add(f32x4.mul(u, q), f32x4.splat(-0.015601078048348427))
  q = f32x4.add(f32x4.mul(u, q), f32x4.splat(0.06530138850212097))
  q = f32x4.add(f32x4.mul(u, q), f32x4.splat(-0.11087749898433685))
  q = f32x4.add(f32x4.mul(u, q), f32x4.splat(0.3333384692668915))
  q = f32x4.add(f32x4.mul(u, q), f32x4.splat(1))
  const power = f32x4.mul(f32x4.mul(f32x4.mul(f32x4.mul(r, r), r), q), scale)
  const y = f32x4.sub(f32x4.mul(f32x4.splat(1.055), power), f32x4.splat(0.0549999475479126))
  const toe = f32x4.mul(v, f32x4.splat(12.92))
  return v128.bitselect(toe, signed(y, v), f32x4.le(a, f32x4.splat(0.0031308)))
}

function lowered(v: v128, above: f32, down: f32): v128 {
  return v128.bitselect(f32x4.mul(v, f32x4.splat(down)), v, f32x4.gt(v, f32x4.splat(above)))
}

function raised(scale: v128, v: v128, above: f32, up: f32): v128 {
  return v128.bitselect(f32x4.mul(scale, f32x4.splat(up)), scale, f32x4.gt(v, f32x4.splat(above)))
}

/** With the sign of another. */
function signed(y: v128, v: v128): v128 {
  return v128.bitselect(f32x4.neg(y), y, f32x4.lt(v, f32x4.splat(0)))
}
