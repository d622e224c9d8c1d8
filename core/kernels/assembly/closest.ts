import { BLOCK, EMPTY, NODE } from './bvh'

/*
 * The place of a mesh that is nearest to a point, by a tree of bvh.ts. `stack` holds 16 kB, a thread's own.
 * Source of the place in a triangle: C. Ericson, "Real-time collision detection", 2005, 5.1.5.
 */

/** The nearest so far: squared distance, triangle, and the weights of its second and third corner. */
let min: f64 = 0
let face: u32 = 0
let weightB: f64 = 0
let weightC: f64 = 0

/** Measures to one of a block's triangles, and keeps it where it is nearer than what was found. */
function measure(block: usize, lane: usize, x: f64, y: f64, z: f64): void {
  const at = block + lane
  const px = x - <f64>load<f32>(at)
  const py = y - <f64>load<f32>(at + 16)
  const pz = z - <f64>load<f32>(at + 32)
  const ax = <f64>load<f32>(at + 48)
  const ay = <f64>load<f32>(at + 64)
  const az = <f64>load<f32>(at + 80)
  const bx = <f64>load<f32>(at + 96)
  const by = <f64>load<f32>(at + 112)
  const bz = <f64>load<f32>(at + 128)
  const aa = ax * ax + ay * ay + az * az
  const bb = bx * bx + by * by + bz * bz
  // Lanes that hold no triangle.
  if (aa == 0 && bb == 0) return
  const ab = ax * bx + ay * by + az * bz
  const ap = ax * px + ay * py + az * pz
  const bp = bx * px + by * py + bz * pz
  const area = aa * bb - ab * ab
  let v = area > 0 ? (bb * ap - ab * bp) / area : -1
  let w = area > 0 ? (aa * bp - ab * ap) / area : -1
  if (v < 0 || w < 0 || v + w > 1) {
    // Outside: the nearest place of its three edges.
    const s = aa > 0 ? Math.min(1, Math.max(0, ap / aa)) : 0
    const t = bb > 0 ? Math.min(1, Math.max(0, bp / bb)) : 0
    const cc = aa - 2 * ab + bb
    const u = cc > 0 ? Math.min(1, Math.max(0, (bp - ab - ap + aa) / cc)) : 0
    const first = s * s * aa - 2 * s * ap
    const second = t * t * bb - 2 * t * bp
    // From the second corner to the third: (1 − u)·a + u·b.
    const k = 1 - u
    const third = k * k * aa + 2 * k * u * ab + u * u * bb - 2 * (k * ap + u * bp)
    v = s
    w = 0
    if (second < first && second <= third) {
      v = 0
      w = t
    } else if (third < first) {
      v = k
      w = u
    }
  }
  const dx = px - v * ax - w * bx
  const dy = py - v * ay - w * by
  const dz = pz - v * az - w * bz
  const square = dx * dx + dy * dy + dz * dz
  if (square >= min) return
  min = square
  face = load<u32>(at + 144)
  weightB = v
  weightC = w
}

/**
 * For each sample (six numbers, the first three its place): how far the nearest place is (NaN: farther than `most`), in which triangle,
 * and the weights of its second and third corner.
 */
export function nearestPlaces(
  nodes: usize,
  blocks: usize,
  stack: usize,
  samples: usize,
  count: i32,
  most: f64,
  distances: usize,
  triangles: usize,
  weights: usize,
): void {
  const zero = f32x4.splat(0)
  for (let i: usize = 0; i < <usize>count; i++) {
    const at = samples + i * 24
    const x = load<f32>(at)
    const y = load<f32>(at + 4)
    const z = load<f32>(at + 8)
    const X = f32x4.splat(x)
    const Y = f32x4.splat(y)
    const Z = f32x4.splat(z)
    const limit = most * most
    min = limit
    face = 0xffffffff
    store<i32>(stack, 0)
    store<f32>(stack + 4, 0)
    let top: usize = stack + 8
    while (top > stack) {
      top -= 8
      const child = load<i32>(top)
      // Distances to boxes are rounded: a little is left over.
      if (<f64>load<f32>(top + 4) * 0.999999 > min) continue
      if (child < 0) {
        const block = blocks + <usize>~child * BLOCK
        for (let lane: usize = 0; lane < 16; lane += 4) measure(block, lane, x, y, z)
        continue
      }
      const node = nodes + <usize>child * NODE
      const dx = f32x4.max(zero, f32x4.max(f32x4.sub(v128.load(node), X), f32x4.sub(X, v128.load(node + 48))))
      const dy = f32x4.max(zero, f32x4.max(f32x4.sub(v128.load(node + 16), Y), f32x4.sub(Y, v128.load(node + 64))))
      const dz = f32x4.max(zero, f32x4.max(f32x4.sub(v128.load(node + 32), Z), f32x4.sub(Z, v128.load(node + 80))))
      v128.store(stack + 16320, f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz)))
      const base = top
      for (let lane: usize = 0; lane < 16; lane += 4) {
        const next = load<i32>(node + 96 + lane)
        const square = load<f32>(stack + 16320 + lane)
        if (next == EMPTY || <f64>square * 0.999999 > min) continue
        let to = top
        // The nearest comes off first.
        while (to > base && load<f32>(to - 4) < square) {
          store<u64>(to, load<u64>(to - 8))
          to -= 8
        }
        store<i32>(to, next)
        store<f32>(to + 4, square)
        top += 8
      }
    }
    const found = face != 0xffffffff
    store<f32>(distances + (i << 2), found ? <f32>Math.sqrt(min) : NaN)
    store<u32>(triangles + (i << 2), found ? face : 0)
    store<f32>(weights + (i << 3), <f32>(found ? weightB : 0))
    store<f32>(weights + (i << 3) + 4, <f32>(found ? weightC : 0))
  }
}
