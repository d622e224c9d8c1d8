import { BLOCK, EMPTY, NODE } from './bvh'

/*
 * Rays through a tree of bvh.ts. A ray is an origin, a direction of any length, and how far it goes in lengths of it. `stack` holds
 * 16 kB, a thread's own.
 * Source of the test of triangles: T. Möller, B. Trumbore, "Fast, minimum storage ray/triangle intersection", 1997.
 */

/** Of the last hit of `nearest`: how far, which triangle, and the weights of its second and third corner. */
export let hitT: f32 = 0
export let hitFace: u32 = 0
export let hitU: f32 = 0
export let hitV: f32 = 0

/** Where t, u and v of a block's four triangles are put, from the stack on. */
const FOUND: usize = 16320

/** Which of a block's four triangles a ray meets before `most`, as bits; their t, u and v are put at `found` unless that is 0. */
function met(block: usize, ox: v128, oy: v128, oz: v128, dx: v128, dy: v128, dz: v128, most: v128, found: usize): i32 {
  const zero = f32x4.splat(0)
  const one = f32x4.splat(1)
  const ax = v128.load(block + 48)
  const ay = v128.load(block + 64)
  const az = v128.load(block + 80)
  const bx = v128.load(block + 96)
  const by = v128.load(block + 112)
  const bz = v128.load(block + 128)
  const px = f32x4.sub(f32x4.mul(dy, bz), f32x4.mul(dz, by))
  const py = f32x4.sub(f32x4.mul(dz, bx), f32x4.mul(dx, bz))
  const pz = f32x4.sub(f32x4.mul(dx, by), f32x4.mul(dy, bx))
  const det = f32x4.add(f32x4.mul(ax, px), f32x4.add(f32x4.mul(ay, py), f32x4.mul(az, pz)))
  const inverse = f32x4.div(one, det)
  const sx = f32x4.sub(ox, v128.load(block))
  const sy = f32x4.sub(oy, v128.load(block + 16))
  const sz = f32x4.sub(oz, v128.load(block + 32))
  const u = f32x4.mul(inverse, f32x4.add(f32x4.mul(sx, px), f32x4.add(f32x4.mul(sy, py), f32x4.mul(sz, pz))))
  const qx = f32x4.sub(f32x4.mul(sy, az), f32x4.mul(sz, ay))
  const qy = f32x4.sub(f32x4.mul(sz, ax), f32x4.mul(sx, az))
  const qz = f32x4.sub(f32x4.mul(sx, ay), f32x4.mul(sy, ax))
  const v = f32x4.mul(inverse, f32x4.add(f32x4.mul(dx, qx), f32x4.add(f32x4.mul(dy, qy), f32x4.mul(dz, qz))))
  const t = f32x4.mul(inverse, f32x4.add(f32x4.mul(bx, qx), f32x4.add(f32x4.mul(by, qy), f32x4.mul(bz, qz))))
  const within = v128.and(
    v128.and(v128.and(f32x4.ge(u, zero), f32x4.ge(v, zero)), f32x4.le(f32x4.add(u, v), one)),
    v128.and(v128.and(f32x4.ne(det, zero), f32x4.gt(t, zero)), f32x4.lt(t, most)),
  )
  const mask = i32x4.bitmask(within)
  if (found != 0 && mask != 0) {
    v128.store(found, u)
    v128.store(found + 16, v)
    v128.store(found + 32, t)
  }
  return mask
}

/** Whether a ray meets a triangle at all. */
export function blocked(
  nodes: usize,
  blocks: usize,
  stack: usize,
  ox: f32,
  oy: f32,
  oz: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  most: f32,
): bool {
  const OX = f32x4.splat(ox)
  const OY = f32x4.splat(oy)
  const OZ = f32x4.splat(oz)
  const DX = f32x4.splat(dx)
  const DY = f32x4.splat(dy)
  const DZ = f32x4.splat(dz)
  const MOST = f32x4.splat(most)
  const zero = f32x4.splat(0)
  const ix = <f32>1 / dx
  const iy = <f32>1 / dy
  const iz = <f32>1 / dz
  const nearX: usize = ix < 0 ? 48 : 0
  const nearY: usize = iy < 0 ? 64 : 16
  const nearZ: usize = iz < 0 ? 80 : 32
  const IX = f32x4.splat(ix)
  const IY = f32x4.splat(iy)
  const IZ = f32x4.splat(iz)
  store<i32>(stack, 0)
  let top: usize = stack + 4
  while (top > stack) {
    top -= 4
    let child = load<i32>(top)
    while (child >= 0) {
      const node = nodes + <usize>child * NODE
      // (box − origin) / direction, so that a ray along a face of its box gives no number only where both are 0.
      const t0 = f32x4.mul(f32x4.sub(v128.load(node + nearX), OX), IX)
      const t1 = f32x4.mul(f32x4.sub(v128.load(node + nearY), OY), IY)
      const t2 = f32x4.mul(f32x4.sub(v128.load(node + nearZ), OZ), IZ)
      const u0 = f32x4.mul(f32x4.sub(v128.load(node + 48 - nearX), OX), IX)
      const u1 = f32x4.mul(f32x4.sub(v128.load(node + 80 - nearY), OY), IY)
      const u2 = f32x4.mul(f32x4.sub(v128.load(node + 112 - nearZ), OZ), IZ)
      const enter = f32x4.pmax(f32x4.pmax(f32x4.pmax(zero, t0), t1), t2)
      const leave = f32x4.pmin(f32x4.pmin(f32x4.pmin(MOST, u0), u1), u2)
      let mask = i32x4.bitmask(f32x4.le(enter, leave))
      if (mask == 0) {
        child = EMPTY
        break
      }
      child = load<i32>(node + 96 + ((<usize>ctz(mask)) << 2))
      for (mask &= mask - 1; mask; mask &= mask - 1) {
        store<i32>(top, load<i32>(node + 96 + ((<usize>ctz(mask)) << 2)))
        top += 4
      }
    }
    if (child < 0 && met(blocks + <usize>~child * BLOCK, OX, OY, OZ, DX, DY, DZ, MOST, 0) != 0) return true
  }
  return false
}

/** Whether a ray meets a triangle; the globals tell of the nearest then. */
export function nearest(
  nodes: usize,
  blocks: usize,
  stack: usize,
  ox: f32,
  oy: f32,
  oz: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  most: f32,
): bool {
  const ix = <f32>1 / dx
  const iy = <f32>1 / dy
  const iz = <f32>1 / dz
  const nearX: usize = ix < 0 ? 48 : 0
  const nearY: usize = iy < 0 ? 64 : 16
  const nearZ: usize = iz < 0 ? 80 : 32
  const farX: usize = 48 - nearX
  const farY: usize = 80 - nearY
  const farZ: usize = 112 - nearZ
  const IX = f32x4.splat(ix)
  const IY = f32x4.splat(iy)
  const IZ = f32x4.splat(iz)
  const OX = f32x4.splat(ox)
  const OY = f32x4.splat(oy)
  const OZ = f32x4.splat(oz)
  const DX = f32x4.splat(dx)
  const DY = f32x4.splat(dy)
  const DZ = f32x4.splat(dz)
  const zero = f32x4.splat(0)
  let top: usize = stack
  store<i32>(top, 0)
  store<f32>(top + 4, 0)
  top += 8
  let found = false
  while (top > stack) {
    top -= 8
    let child = load<i32>(top)
    if (load<f32>(top + 4) >= most) continue
    while (child >= 0 && child != EMPTY) {
      const node = nodes + <usize>child * NODE
      // (box − origin) / direction, so that a ray along a face of its box gives no number only where both are 0.
      const t0 = f32x4.mul(f32x4.sub(v128.load(node + nearX), OX), IX)
      const t1 = f32x4.mul(f32x4.sub(v128.load(node + nearY), OY), IY)
      const t2 = f32x4.mul(f32x4.sub(v128.load(node + nearZ), OZ), IZ)
      const u0 = f32x4.mul(f32x4.sub(v128.load(node + farX), OX), IX)
      const u1 = f32x4.mul(f32x4.sub(v128.load(node + farY), OY), IY)
      const u2 = f32x4.mul(f32x4.sub(v128.load(node + farZ), OZ), IZ)
      const enter = f32x4.pmax(f32x4.pmax(f32x4.pmax(zero, t0), t1), t2)
      const leave = f32x4.pmin(f32x4.pmin(f32x4.pmin(f32x4.splat(most), u0), u1), u2)
      let mask = i32x4.bitmask(f32x4.le(enter, leave))
      if (mask == 0) {
        child = EMPTY
        break
      }
      if ((mask & (mask - 1)) == 0) {
        child = load<i32>(node + 96 + ((<usize>ctz(mask)) << 2))
        continue
      }
      v128.store(stack + FOUND + 32, enter)
      let closest: i32 = 0
      let min: f32 = Infinity
      for (let rest = mask; rest; rest &= rest - 1) {
        const j = ctz(rest)
        const t = load<f32>(stack + FOUND + 32 + ((<usize>j) << 2))
        if (t < min) {
          min = t
          closest = j
        }
      }
      mask &= ~(1 << closest)
      const base = top
      for (; mask; mask &= mask - 1) {
        const j = (<usize>ctz(mask)) << 2
        const t = load<f32>(stack + FOUND + 32 + j)
        let at = top
        // The nearest comes off first.
        while (at > base && load<f32>(at - 4) < t) {
          store<u64>(at, load<u64>(at - 8))
          at -= 8
        }
        store<i32>(at, load<i32>(node + 96 + j))
        store<f32>(at + 4, t)
        top += 8
      }
      child = load<i32>(node + 96 + ((<usize>closest) << 2))
    }
    if (child == EMPTY) continue
    const block = blocks + <usize>~child * BLOCK
    let mask = met(block, OX, OY, OZ, DX, DY, DZ, f32x4.splat(most), stack + FOUND)
    for (; mask; mask &= mask - 1) {
      const j = (<usize>ctz(mask)) << 2
      const at = load<f32>(stack + FOUND + 32 + j)
      if (at >= most) continue
      most = at
      found = true
      hitT = at
      hitFace = load<u32>(block + 144 + j)
      hitU = load<f32>(stack + FOUND + j)
      hitV = load<f32>(stack + FOUND + 16 + j)
    }
  }
  return found
}

/** For each ray (origin, direction, how far: seven numbers) 1 where it meets something, else 0. */
export function anyHits(nodes: usize, blocks: usize, stack: usize, rays: usize, count: i32, out: usize): void {
  for (let i: i32 = 0; i < count; i++) {
    const at = rays + <usize>i * 28
    const hit = blocked(
      nodes,
      blocks,
      stack,
      load<f32>(at),
      load<f32>(at + 4),
      load<f32>(at + 8),
      load<f32>(at + 12),
      load<f32>(at + 16),
      load<f32>(at + 20),
      load<f32>(at + 24),
    )
    store<f32>(out + ((<usize>i) << 2), hit ? 1 : 0)
  }
}

/** For each ray: how far the nearest is (−1: none), its triangle's number (as bits), and the weights of its second and third corner. */
export function closestHits(nodes: usize, blocks: usize, stack: usize, rays: usize, count: i32, out: usize): void {
  for (let i: i32 = 0; i < count; i++) {
    const at = rays + <usize>i * 28
    const hit = nearest(
      nodes,
      blocks,
      stack,
      load<f32>(at),
      load<f32>(at + 4),
      load<f32>(at + 8),
      load<f32>(at + 12),
      load<f32>(at + 16),
      load<f32>(at + 20),
      load<f32>(at + 24),
    )
    const to = out + ((<usize>i) << 4)
    store<f32>(to, hit ? hitT : -1)
    store<u32>(to + 4, hit ? hitFace : 0)
    store<f32>(to + 8, hit ? hitU : 0)
    store<f32>(to + 12, hit ? hitV : 0)
  }
}
