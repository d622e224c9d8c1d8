import { BLOCK, EMPTY, NODE } from './bvh'

/*
 * Rays through a tree of bvh.ts, up to 32 of them together: what is about them and where they begin is mostly the same for all, and each
 * node is looked at once for all that come to it, without a branch a ray. Which rays those are is told by bits.
 * A ray is an origin, a direction of any length, and how far it goes in lengths of it. A box is met where (box − origin) / direction says
 * so, in this order; a ray along a face of it gives no number there (0 · ∞), and least and greatest are taken so that none counts.
 * Source of the test of triangles: T. Möller, B. Trumbore, "Fast, minimum storage ray/triangle intersection", 1997.
 */

/** Rays that go together at most. */
export const PACKET: i32 = 32
/**
 * Bytes of a ray. Vectors of four equal numbers come first: origin x, y, z, inverse of the direction x, y, z, how far boxes matter, and the
 * ray's bit. Then the direction, the triangle that it met, the weights of its second and third corner, and how far the ray goes: to what it
 * has met.
 */
export const RAY: usize = 160
const INVERSE: usize = 48
const REACH: usize = 96
const BIT: usize = 112
const WAY: usize = 128
const FACE: usize = 140
const WEIGHTS: usize = 144
const MOST: usize = 152
/**
 * Boxes matter a little farther than a ray goes: where it meets two triangles equally far, on an edge of both, it finds both, and takes
 * the one of the lower number, whatever is looked at first and whichever rays go with it.
 */
const BEYOND: f32 = 1.00001
/** The triangle of a ray that met nothing. */
const NONE: u32 = 0xffffffff

/** Bytes of a stack. */
export const STACK: usize = 16384

/** Sets ray `number` of those at `rays`. */
export function setRay(
  rays: usize,
  number: i32,
  ox: f32,
  oy: f32,
  oz: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  most: f32,
): void {
  const ray = rays + <usize>number * RAY
  v128.store(ray, f32x4.splat(ox))
  v128.store(ray, f32x4.splat(oy), 16)
  v128.store(ray, f32x4.splat(oz), 32)
  const way = f32x4(dx, dy, dz, 1)
  // Of next to nothing it is +∞, never −∞.
  const some = v128.and(way, f32x4.gt(f32x4.abs(way), f32x4.splat(1e-30)))
  const inverse = f32x4.div(f32x4.splat(1), some)
  v128.store(ray, v128.shuffle<i32>(inverse, inverse, 0, 0, 0, 0), INVERSE)
  v128.store(ray, v128.shuffle<i32>(inverse, inverse, 1, 1, 1, 1), INVERSE + 16)
  v128.store(ray, v128.shuffle<i32>(inverse, inverse, 2, 2, 2, 2), INVERSE + 32)
  v128.store(ray, f32x4.splat(most * BEYOND), REACH)
  v128.store(ray, i32x4.splat(1 << number), BIT)
  v128.store(ray, way, WAY)
  store<u32>(ray, NONE, FACE)
  store<f32>(ray, most, MOST)
}

/** Bits of the first `count` rays, 1 to 32. */
export function firstRays(count: i32): u32 {
  return 0xffffffff >> (<u32>(PACKET - count))
}

/** Whether a ray has met something. */
export function hasMet(ray: usize): bool {
  return load<u32>(ray, FACE) != NONE
}

/** How far the nearest is that a ray has met. */
export function metAt(ray: usize): f32 {
  return load<f32>(ray, MOST)
}

/** The triangle that a ray has met, and the weights of its second and third corner. */
export function faceMet(ray: usize): u32 {
  return load<u32>(ray, FACE)
}
export function weightB(ray: usize): f32 {
  return load<f32>(ray, WEIGHTS)
}
export function weightC(ray: usize): f32 {
  return load<f32>(ray, WEIGHTS + 4)
}

/** Where a ray begins, and its direction. */
export function originX(ray: usize): f32 {
  return load<f32>(ray)
}
export function originY(ray: usize): f32 {
  return load<f32>(ray, 16)
}
export function originZ(ray: usize): f32 {
  return load<f32>(ray, 32)
}
export function wayX(ray: usize): f32 {
  return load<f32>(ray, WAY)
}
export function wayY(ray: usize): f32 {
  return load<f32>(ray, WAY + 4)
}
export function wayZ(ray: usize): f32 {
  return load<f32>(ray, WAY + 8)
}

/** The end of the stack, and a place that all rays at hand begin near. */
let top: usize = 0
let middleX: f32 = 0
let middleY: f32 = 0
let middleZ: f32 = 0

/** Sends rays through a node: the children that any of them enters come onto the stack, each with its rays, the nearest on top. */
function enter(node: usize, mask: u32, rays: usize): void {
  const zero = f32x4.splat(0)
  const ax = v128.load(node)
  const ay = v128.load(node, 16)
  const az = v128.load(node, 32)
  const bx = v128.load(node, 48)
  const by = v128.load(node, 64)
  const bz = v128.load(node, 80)
  // Of each child the bits of rays that enter it.
  let entering = i32x4.splat(0)
  for (; mask; mask &= mask - 1) {
    const ray = rays + <usize>ctz(mask) * RAY
    const OX = v128.load(ray)
    const OY = v128.load(ray, 16)
    const OZ = v128.load(ray, 32)
    const IX = v128.load(ray, INVERSE)
    const IY = v128.load(ray, INVERSE + 16)
    const IZ = v128.load(ray, INVERSE + 32)
    const t0 = f32x4.mul(f32x4.sub(ax, OX), IX)
    const u0 = f32x4.mul(f32x4.sub(bx, OX), IX)
    const t1 = f32x4.mul(f32x4.sub(ay, OY), IY)
    const u1 = f32x4.mul(f32x4.sub(by, OY), IY)
    const t2 = f32x4.mul(f32x4.sub(az, OZ), IZ)
    const u2 = f32x4.mul(f32x4.sub(bz, OZ), IZ)
    const from = f32x4.pmax(f32x4.pmax(f32x4.pmax(zero, f32x4.pmin(t0, u0)), f32x4.pmin(t1, u1)), f32x4.pmin(t2, u2))
    const to = f32x4.pmin(
      f32x4.pmin(f32x4.pmin(v128.load(ray, REACH), f32x4.pmax(u0, t0)), f32x4.pmax(u1, t1)),
      f32x4.pmax(u2, t2),
    )
    entering = v128.or(entering, v128.and(f32x4.le(from, to), v128.load(ray, BIT)))
  }
  // What is no child has a box that is inside out, which rays seem to enter.
  const children = v128.load(node, 96)
  const isEntered = v128.and(i32x4.ne(entering, i32x4.splat(0)), i32x4.ne(children, i32x4.splat(EMPTY)))
  const count = popcnt(i32x4.bitmask(isEntered))
  if (count == 0) return
  const X = f32x4.splat(middleX)
  const Y = f32x4.splat(middleY)
  const Z = f32x4.splat(middleZ)
  const gx = f32x4.pmax(zero, f32x4.pmax(f32x4.sub(ax, X), f32x4.sub(X, bx)))
  const gy = f32x4.pmax(zero, f32x4.pmax(f32x4.sub(ay, Y), f32x4.sub(Y, by)))
  const gz = f32x4.pmax(zero, f32x4.pmax(f32x4.sub(az, Z), f32x4.sub(Z, bz)))
  const square = f32x4.add(f32x4.add(f32x4.mul(gx, gx), f32x4.mul(gy, gy)), f32x4.mul(gz, gz))
  // A child's place on the stack is how many are farther: that is found without a branch, as none could be foretold. Distances have the
  // child's number in their last bits, so that no two are equal. What nobody enters is negative: it comes behind the stack's end.
  const distance = v128.bitselect(v128.andnot(square, i32x4.splat(3)), i32x4.splat(0x80000000), isEntered)
  const key = v128.or(distance, i32x4(0, 1, 2, 3))
  // Each comparison that holds adds −1.
  const farther = i32x4.add(
    i32x4.gt_s(v128.shuffle<i32>(key, key, 1, 2, 3, 0), key),
    i32x4.add(
      i32x4.gt_s(v128.shuffle<i32>(key, key, 2, 3, 0, 1), key),
      i32x4.gt_s(v128.shuffle<i32>(key, key, 3, 0, 1, 2), key),
    ),
  )
  const low = v128.shuffle<i32>(children, entering, 0, 4, 1, 5)
  const high = v128.shuffle<i32>(children, entering, 2, 6, 3, 7)
  v128.store64_lane(top - ((<usize>i32x4.extract_lane(farther, 0)) << 3), low, 0)
  v128.store64_lane(top - ((<usize>i32x4.extract_lane(farther, 1)) << 3), low, 1)
  v128.store64_lane(top - ((<usize>i32x4.extract_lane(farther, 2)) << 3), high, 0)
  v128.store64_lane(top - ((<usize>i32x4.extract_lane(farther, 3)) << 3), high, 1)
  top += (<usize>count) << 3
}

/** Tests rays against the four triangles of a block. A ray that has met something goes only so far; with `any` it goes nowhere. */
function test(block: usize, mask: u32, rays: usize, any: bool): void {
  const zero = f32x4.splat(0)
  const one = f32x4.splat(1)
  for (; mask; mask &= mask - 1) {
    const ray = rays + <usize>ctz(mask) * RAY
    const way = v128.load(ray, WAY)
    const dx = v128.shuffle<i32>(way, way, 0, 0, 0, 0)
    const dy = v128.shuffle<i32>(way, way, 1, 1, 1, 1)
    const dz = v128.shuffle<i32>(way, way, 2, 2, 2, 2)
    const ax = v128.load(block, 48)
    const ay = v128.load(block, 64)
    const az = v128.load(block, 80)
    const bx = v128.load(block, 96)
    const by = v128.load(block, 112)
    const bz = v128.load(block, 128)
    const px = f32x4.sub(f32x4.mul(dy, bz), f32x4.mul(dz, by))
    const py = f32x4.sub(f32x4.mul(dz, bx), f32x4.mul(dx, bz))
    const pz = f32x4.sub(f32x4.mul(dx, by), f32x4.mul(dy, bx))
    const det = f32x4.add(f32x4.mul(ax, px), f32x4.add(f32x4.mul(ay, py), f32x4.mul(az, pz)))
    const inverse = f32x4.div(one, det)
    const sx = f32x4.sub(v128.load(ray), v128.load(block))
    const sy = f32x4.sub(v128.load(ray, 16), v128.load(block, 16))
    const sz = f32x4.sub(v128.load(ray, 32), v128.load(block, 32))
    const u = f32x4.mul(inverse, f32x4.add(f32x4.mul(sx, px), f32x4.add(f32x4.mul(sy, py), f32x4.mul(sz, pz))))
    const qx = f32x4.sub(f32x4.mul(sy, az), f32x4.mul(sz, ay))
    const qy = f32x4.sub(f32x4.mul(sz, ax), f32x4.mul(sx, az))
    const qz = f32x4.sub(f32x4.mul(sx, ay), f32x4.mul(sy, ax))
    const v = f32x4.mul(inverse, f32x4.add(f32x4.mul(dx, qx), f32x4.add(f32x4.mul(dy, qy), f32x4.mul(dz, qz))))
    const t = f32x4.mul(inverse, f32x4.add(f32x4.mul(bx, qx), f32x4.add(f32x4.mul(by, qy), f32x4.mul(bz, qz))))
    const within = v128.and(
      v128.and(v128.and(f32x4.ge(u, zero), f32x4.ge(v, zero)), f32x4.le(f32x4.add(u, v), one)),
      v128.and(v128.and(f32x4.ne(det, zero), f32x4.gt(t, zero)), f32x4.le(t, v128.load32_splat(ray, MOST))),
    )
    if (!v128.any_true(within)) continue
    v128.store(top, t)
    v128.store(top, u, 16)
    v128.store(top, v, 32)
    for (let rest = i32x4.bitmask(within); rest; rest &= rest - 1) {
      const lane = (<usize>ctz(rest)) << 2
      const far = load<f32>(top + lane)
      const face = load<u32>(block + lane, 144)
      const most = load<f32>(ray, MOST)
      if (far > most || (far == most && face > load<u32>(ray, FACE))) continue
      store<f32>(ray, far, MOST)
      store<u32>(ray, face, FACE)
      store<f32>(ray, load<f32>(top + lane, 16), WEIGHTS)
      store<f32>(ray, load<f32>(top + lane, 32), WEIGHTS + 4)
    }
    if (any) store<f32>(ray, -1, MOST)
    v128.store(ray, f32x4.splat(load<f32>(ray, MOST) * BEYOND), REACH)
  }
}

/**
 * Sends those of the rays at `rays` that `mask` names through the tree, from the nodes at `roots` to `end` on: the first of the tree, or
 * those of a fan (fan.ts). Each then knows the nearest that it meets, with `any` only whether there is one. `stack` is a thread's own.
 */
export function trace(
  nodes: usize,
  blocks: usize,
  stack: usize,
  roots: usize,
  end: usize,
  rays: usize,
  mask: u32,
  any: bool,
): void {
  const first = rays + <usize>ctz(mask) * RAY
  middleX = load<f32>(first)
  middleY = load<f32>(first, 16)
  middleZ = load<f32>(first, 32)
  for (let root = roots; root < end; root += NODE) {
    top = stack
    enter(root, mask, rays)
    while (top > stack) {
      top -= 8
      const child = load<i32>(top)
      const some = load<u32>(top, 4)
      if (child < 0) test(blocks + <usize>~child * BLOCK, some, rays, any)
      else enter(nodes + <usize>child * NODE, some, rays)
    }
  }
}

/** Sets `count` rays to those of a table: origin, direction, how far, seven numbers each. */
function setRays(rays: usize, table: usize, count: i32): void {
  for (let i: i32 = 0; i < count; i++) {
    const at = table + <usize>i * 28
    setRay(
      rays,
      i,
      load<f32>(at),
      load<f32>(at + 4),
      load<f32>(at + 8),
      load<f32>(at + 12),
      load<f32>(at + 16),
      load<f32>(at + 20),
      load<f32>(at + 24),
    )
  }
}

/** For each ray (origin, direction, how far: seven numbers) 1 where it meets something, else 0. */
export function anyHits(nodes: usize, blocks: usize, stack: usize, table: usize, count: i32, out: usize): void {
  const rays = stack + STACK
  for (let first: i32 = 0; first < count; first += PACKET) {
    const some = min(PACKET, count - first)
    setRays(rays, table + <usize>first * 28, some)
    trace(nodes, blocks, stack, nodes, nodes + NODE, rays, firstRays(some), true)
    for (let i: i32 = 0; i < some; i++)
      store<f32>(out + ((<usize>(first + i)) << 2), hasMet(rays + <usize>i * RAY) ? 1 : 0)
  }
}

/** For each ray: how far the nearest is (−1: none), its triangle's number (as bits), and the weights of its second and third corner. */
export function closestHits(nodes: usize, blocks: usize, stack: usize, table: usize, count: i32, out: usize): void {
  const rays = stack + STACK
  for (let first: i32 = 0; first < count; first += PACKET) {
    const some = min(PACKET, count - first)
    setRays(rays, table + <usize>first * 28, some)
    trace(nodes, blocks, stack, nodes, nodes + NODE, rays, firstRays(some), false)
    for (let i: i32 = 0; i < some; i++) {
      const ray = rays + <usize>i * RAY
      const to = out + ((<usize>(first + i)) << 4)
      const hit = hasMet(ray)
      store<f32>(to, hit ? metAt(ray) : -1)
      store<u32>(to, hit ? faceMet(ray) : 0, 4)
      store<f32>(to, hit ? weightB(ray) : 0, 8)
      store<f32>(to, hit ? weightC(ray) : 0, 12)
    }
  }
}
