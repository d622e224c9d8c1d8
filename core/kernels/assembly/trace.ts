import { BLOCK, EMPTY, NODE } from './bvh'

/*
 * Rays through a tree of bvh.ts. A ray is an origin, a direction of any length, and how far it goes in lengths of it. It begins at the
 * nodes from `roots` to `end`: the first of the tree, or those of a fan (fan.ts). `stack` holds 16 kB, a thread's own.
 * A box is met where (box − origin) / direction says so, in this order: a ray along a face of it gives no number only where both are 0.
 * That stands twice in each function here, as one of its own would not be inlined and cost a third.
 * Source of the test of triangles: T. Möller, B. Trumbore, "Fast, minimum storage ray/triangle intersection", 1997.
 */

/** Of the last hit of `nearest`: how far, which triangle, and the weights of its second and third corner. */
export let hitT: f32 = 0
export let hitFace: u32 = 0
export let hitU: f32 = 0
export let hitV: f32 = 0

/** Bytes of a stack. */
export const STACK: usize = 16384

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

/**
 * Puts those children of a node that a mask names onto the stack, the first on top; its new top. Without a branch, as none could be
 * foretold.
 */
export function pushed(top: usize, node: usize, mask: i32): usize {
  store<i32>(top, load<i32>(node + 108))
  top += <usize>((mask & 8) >> 1)
  store<i32>(top, load<i32>(node + 104))
  top += <usize>(mask & 4)
  store<i32>(top, load<i32>(node + 100))
  top += <usize>((mask & 2) << 1)
  store<i32>(top, load<i32>(node + 96))
  return top + <usize>((mask & 1) << 2)
}

/** Whether a ray meets a triangle at all. */
export function blocked(
  nodes: usize,
  blocks: usize,
  stack: usize,
  roots: usize,
  end: usize,
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
  const ix = <f32>1 / dx
  const iy = <f32>1 / dy
  const iz = <f32>1 / dz
  const nearX: usize = ix < 0 ? 48 : 0
  const nearY: usize = iy < 0 ? 64 : 16
  const nearZ: usize = iz < 0 ? 80 : 32
  const IX = f32x4.splat(ix)
  const IY = f32x4.splat(iy)
  const IZ = f32x4.splat(iz)
  const zero = f32x4.splat(0)
  let top: usize = stack
  // The nearest roots come last: what lies there is taken off the stack first.
  for (let root = end; root > roots;) {
    root -= NODE
    const t0 = f32x4.mul(f32x4.sub(v128.load(root + nearX), OX), IX)
    const t1 = f32x4.mul(f32x4.sub(v128.load(root + nearY), OY), IY)
    const t2 = f32x4.mul(f32x4.sub(v128.load(root + nearZ), OZ), IZ)
    const u0 = f32x4.mul(f32x4.sub(v128.load(root + 48 - nearX), OX), IX)
    const u1 = f32x4.mul(f32x4.sub(v128.load(root + 80 - nearY), OY), IY)
    const u2 = f32x4.mul(f32x4.sub(v128.load(root + 112 - nearZ), OZ), IZ)
    const enter = f32x4.pmax(f32x4.pmax(f32x4.pmax(zero, t0), t1), t2)
    const leave = f32x4.pmin(f32x4.pmin(f32x4.pmin(MOST, u0), u1), u2)
    top = pushed(top, root, i32x4.bitmask(f32x4.le(enter, leave)))
  }
  while (top > stack) {
    top -= 4
    const child = load<i32>(top)
    if (child < 0) {
      if (met(blocks + <usize>~child * BLOCK, OX, OY, OZ, DX, DY, DZ, MOST, 0) != 0) return true
      continue
    }
    const node = nodes + <usize>child * NODE
    const t0 = f32x4.mul(f32x4.sub(v128.load(node + nearX), OX), IX)
    const t1 = f32x4.mul(f32x4.sub(v128.load(node + nearY), OY), IY)
    const t2 = f32x4.mul(f32x4.sub(v128.load(node + nearZ), OZ), IZ)
    const u0 = f32x4.mul(f32x4.sub(v128.load(node + 48 - nearX), OX), IX)
    const u1 = f32x4.mul(f32x4.sub(v128.load(node + 80 - nearY), OY), IY)
    const u2 = f32x4.mul(f32x4.sub(v128.load(node + 112 - nearZ), OZ), IZ)
    const enter = f32x4.pmax(f32x4.pmax(f32x4.pmax(zero, t0), t1), t2)
    const leave = f32x4.pmin(f32x4.pmin(f32x4.pmin(MOST, u0), u1), u2)
    top = pushed(top, node, i32x4.bitmask(f32x4.le(enter, leave)))
  }
  return false
}

/** As pushed, each with how far it is. */
function paired(top: usize, node: usize, enter: v128, mask: i32): usize {
  const children = v128.load(node + 96)
  const v = v128.shuffle<i32>(children, enter, 0, 4, 1, 5)
  const w = v128.shuffle<i32>(children, enter, 2, 6, 3, 7)
  v128.store64_lane(top, w, 1)
  top += <usize>(mask & 8)
  v128.store64_lane(top, w, 0)
  top += <usize>((mask & 4) << 1)
  v128.store64_lane(top, v, 1)
  top += <usize>((mask & 2) << 2)
  v128.store64_lane(top, v, 0)
  return top + <usize>((mask & 1) << 3)
}

/**
 * Puts those children of a node that are entered onto the stack, each with how far it is, the nearest on top; the stack's new top.
 * Without a branch: distance and number are one number of 64 bits, and four of those are sorted; what is not entered is 0.
 */
function sorted(top: usize, node: usize, enter: v128, entered: v128): usize {
  const children = v128.and(v128.load(node + 96), entered)
  const far = v128.and(enter, entered)
  const v = v128.shuffle<i32>(children, far, 0, 4, 1, 5)
  const w = v128.shuffle<i32>(children, far, 2, 6, 3, 7)
  const first = i64x2.gt_s(w, v)
  const high = v128.bitselect(w, v, first)
  const low = v128.bitselect(v, w, first)
  const a = v128.shuffle<i64>(high, low, 0, 2)
  const b = v128.shuffle<i64>(high, low, 1, 3)
  const second = i64x2.gt_s(b, a)
  const max = v128.bitselect(b, a, second)
  const min = v128.bitselect(a, b, second)
  // The greatest and the least stand; those between are to be told apart.
  const c = v128.shuffle<i64>(max, min, 1, 2)
  const d = v128.shuffle<i64>(max, min, 2, 1)
  const third = i64x2.gt_s(d, c)
  v128.store(top, v128.shuffle<i64>(max, v128.bitselect(d, c, third), 0, 2))
  v128.store(top, v128.shuffle<i64>(v128.bitselect(c, d, third), min, 0, 3), 16)
  return top + <usize>(popcnt(i32x4.bitmask(entered)) << 3)
}

/** Whether a ray meets a triangle; the globals tell of the nearest then. */
export function nearest(
  nodes: usize,
  blocks: usize,
  stack: usize,
  roots: usize,
  end: usize,
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
  const IX = f32x4.splat(ix)
  const IY = f32x4.splat(iy)
  const IZ = f32x4.splat(iz)
  const OX = f32x4.splat(ox)
  const OY = f32x4.splat(oy)
  const OZ = f32x4.splat(oz)
  const DX = f32x4.splat(dx)
  const DY = f32x4.splat(dy)
  const DZ = f32x4.splat(dz)
  let MOST = f32x4.splat(most)
  let found = false
  const zero = f32x4.splat(0)
  let top: usize = stack
  // The nearest roots come last: what lies there is taken off the stack first.
  for (let root = end; root > roots;) {
    root -= NODE
    const t0 = f32x4.mul(f32x4.sub(v128.load(root + nearX), OX), IX)
    const t1 = f32x4.mul(f32x4.sub(v128.load(root + nearY), OY), IY)
    const t2 = f32x4.mul(f32x4.sub(v128.load(root + nearZ), OZ), IZ)
    const u0 = f32x4.mul(f32x4.sub(v128.load(root + 48 - nearX), OX), IX)
    const u1 = f32x4.mul(f32x4.sub(v128.load(root + 80 - nearY), OY), IY)
    const u2 = f32x4.mul(f32x4.sub(v128.load(root + 112 - nearZ), OZ), IZ)
    const enter = f32x4.pmax(f32x4.pmax(f32x4.pmax(zero, t0), t1), t2)
    const leave = f32x4.pmin(f32x4.pmin(f32x4.pmin(MOST, u0), u1), u2)
    top = paired(top, root, enter, i32x4.bitmask(f32x4.le(enter, leave)))
  }
  while (top > stack) {
    top -= 8
    if (load<f32>(top + 4) >= most) continue
    let child = load<i32>(top)
    while (child >= 0 && child != EMPTY) {
      const node = nodes + <usize>child * NODE
      const t0 = f32x4.mul(f32x4.sub(v128.load(node + nearX), OX), IX)
      const t1 = f32x4.mul(f32x4.sub(v128.load(node + nearY), OY), IY)
      const t2 = f32x4.mul(f32x4.sub(v128.load(node + nearZ), OZ), IZ)
      const u0 = f32x4.mul(f32x4.sub(v128.load(node + 48 - nearX), OX), IX)
      const u1 = f32x4.mul(f32x4.sub(v128.load(node + 80 - nearY), OY), IY)
      const u2 = f32x4.mul(f32x4.sub(v128.load(node + 112 - nearZ), OZ), IZ)
      const enter = f32x4.pmax(f32x4.pmax(f32x4.pmax(zero, t0), t1), t2)
      const leave = f32x4.pmin(f32x4.pmin(f32x4.pmin(MOST, u0), u1), u2)
      const entered = f32x4.le(enter, leave)
      const mask = i32x4.bitmask(entered)
      // An only one is gone into at once.
      if ((mask & (mask - 1)) == 0) child = mask == 0 ? EMPTY : load<i32>(node + 96 + ((<usize>ctz(mask)) << 2))
      else {
        top = sorted(top, node, enter, entered) - 8
        child = load<i32>(top)
      }
    }
    if (child == EMPTY) continue
    const block = blocks + <usize>~child * BLOCK
    for (let mask = met(block, OX, OY, OZ, DX, DY, DZ, MOST, stack + FOUND); mask; mask &= mask - 1) {
      const j = (<usize>ctz(mask)) << 2
      const at = load<f32>(stack + FOUND + 32 + j)
      if (at >= most) continue
      most = at
      MOST = f32x4.splat(at)
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
      nodes,
      nodes + NODE,
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
      nodes,
      nodes + NODE,
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
