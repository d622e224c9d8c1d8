import { BLOCK, EMPTY, NODE } from './bvh'
import { STACK } from './trace'

/*
 * What rays from nearly one place can meet, found once for all of them. Most nodes that a ray looks at lie about its origin, and they are
 * the same for all rays from there; most of what they hold lies below the surface that the rays leave. What is left is told as a few nodes
 * (bvh.ts) that have no parent; rays begin at those instead of at the tree's first. What is left out is what no ray can meet, so that
 * results are those of rays through the whole tree.
 */

/** Children that a fan has at most; from then on nodes are taken as they are. More take longer to gather than they save, measured. */
const MAX_CHILDREN: usize = 24
/** Bytes of a fan, with what it is made by. */
const FAN: usize = 4096

/** Where a thread has its fan: behind its stack. */
export function fanAt(stack: usize): usize {
  return stack + STACK
}

/** Where a thread has the rays that go together (trace.ts): behind its fan. */
export function raysOf(stack: usize): usize {
  return stack + STACK + FAN
}

/** Where four distances are put, from the stack on. */
const SQUARES: usize = 16368

/** Bounds of where rays begin, the middle of those, and bounds of their axes. */
let lowX: f32 = 0
let lowY: f32 = 0
let lowZ: f32 = 0
let highX: f32 = 0
let highY: f32 = 0
let highZ: f32 = 0
let lowNX: f32 = 0
let lowNY: f32 = 0
let lowNZ: f32 = 0
let highNX: f32 = 0
let highNY: f32 = 0
let highNZ: f32 = 0
let midX: f32 = 0
let midY: f32 = 0
let midZ: f32 = 0
/** How far along its axis the lowest origin lies from the middle. */
let lowest: f32 = 0

/** Sets the bounds for samples whose rays begin `bias` off the surface; axes are normals times `side`. */
function bound(samples: usize, count: i32, side: f32, bias: f32): void {
  for (let i: i32 = 0; i < count; i++) {
    const at = samples + <usize>i * 24
    const nx = side * load<f32>(at + 12)
    const ny = side * load<f32>(at + 16)
    const nz = side * load<f32>(at + 20)
    const x = load<f32>(at) + nx * bias
    const y = load<f32>(at + 4) + ny * bias
    const z = load<f32>(at + 8) + nz * bias
    if (i == 0) {
      lowX = highX = x
      lowY = highY = y
      lowZ = highZ = z
      lowNX = highNX = nx
      lowNY = highNY = ny
      lowNZ = highNZ = nz
      continue
    }
    lowX = min(lowX, x)
    lowY = min(lowY, y)
    lowZ = min(lowZ, z)
    highX = max(highX, x)
    highY = max(highY, y)
    highZ = max(highZ, z)
    lowNX = min(lowNX, nx)
    lowNY = min(lowNY, ny)
    lowNZ = min(lowNZ, nz)
    highNX = max(highNX, nx)
    highNY = max(highNY, ny)
    highNZ = max(highNZ, nz)
  }
  midX = (lowX + highX) / 2
  midY = (lowY + highY) / 2
  midZ = (lowZ + highZ) / 2
  lowest = Infinity
  for (let i: i32 = 0; i < count; i++) {
    const at = samples + <usize>i * 24
    const nx = side * load<f32>(at + 12)
    const ny = side * load<f32>(at + 16)
    const nz = side * load<f32>(at + 20)
    const x = load<f32>(at) + nx * bias - midX
    const y = load<f32>(at + 4) + ny * bias - midY
    const z = load<f32>(at + 8) + nz * bias - midZ
    lowest = min(lowest, x * nx + y * ny + z * nz)
  }
}

/** The greatest product of numbers between `a` and `b`, with ones between two others. */
function maxProduct(a: v128, b: v128, low: f32, high: f32): v128 {
  const l = f32x4.splat(low)
  const h = f32x4.splat(high)
  return f32x4.pmax(f32x4.pmax(f32x4.mul(a, l), f32x4.mul(a, h)), f32x4.pmax(f32x4.mul(b, l), f32x4.mul(b, h)))
}

/** How far four boxes reach over the planes through the origins, across their axes, at most. */
function reachOver(ax: v128, ay: v128, az: v128, bx: v128, by: v128, bz: v128): v128 {
  const x = maxProduct(f32x4.sub(ax, f32x4.splat(midX)), f32x4.sub(bx, f32x4.splat(midX)), lowNX, highNX)
  const y = maxProduct(f32x4.sub(ay, f32x4.splat(midY)), f32x4.sub(by, f32x4.splat(midY)), lowNY, highNY)
  const z = maxProduct(f32x4.sub(az, f32x4.splat(midZ)), f32x4.sub(bz, f32x4.splat(midZ)), lowNZ, highNZ)
  return f32x4.add(x, f32x4.add(y, z))
}

/** Whether all triangles of a block lie below the planes. */
function isBelow(block: usize, slack: v128): bool {
  const x = v128.load(block)
  const y = v128.load(block + 16)
  const z = v128.load(block + 32)
  const px = f32x4.add(x, v128.load(block + 48))
  const py = f32x4.add(y, v128.load(block + 64))
  const pz = f32x4.add(z, v128.load(block + 80))
  const qx = f32x4.add(x, v128.load(block + 96))
  const qy = f32x4.add(y, v128.load(block + 112))
  const qz = f32x4.add(z, v128.load(block + 128))
  const a = reachOver(x, y, z, x, y, z)
  const b = reachOver(px, py, pz, px, py, pz)
  const c = reachOver(qx, qy, qz, qx, qy, qz)
  return !v128.any_true(f32x4.gt(f32x4.pmax(a, f32x4.pmax(b, c)), slack))
}

/** How far numbers between `a` and `b` are from those between `low` and `high`. */
function gap(a: v128, b: v128, low: f32, high: f32): v128 {
  const zero = f32x4.splat(0)
  return f32x4.pmax(zero, f32x4.pmax(f32x4.sub(a, f32x4.splat(high)), f32x4.sub(f32x4.splat(low), b)))
}

/**
 * Puts those children of a node that a mask names onto the stack, the first on top; its new top. Without a branch, as none could be
 * foretold.
 */
function pushed(top: usize, node: usize, mask: i32): usize {
  store<i32>(top, load<i32>(node + 108))
  top += <usize>((mask & 8) >> 1)
  store<i32>(top, load<i32>(node + 104))
  top += <usize>(mask & 4)
  store<i32>(top, load<i32>(node + 100))
  top += <usize>((mask & 2) << 1)
  store<i32>(top, load<i32>(node + 96))
  return top + <usize>((mask & 1) << 2)
}

/**
 * Puts what rays of samples can meet within `most` of where they begin into nodes at `fan`, nearest first; the end of those.
 * `side` 1: rays go to the side that normals look to, −1: to the other, 0: to all; `flattest` is the least cosine to that axis. Rays begin
 * `bias` along it. With side 0 all that is near is kept, wherever rays begin.
 */
export function gather(
  nodes: usize,
  blocks: usize,
  stack: usize,
  fan: usize,
  samples: usize,
  count: i32,
  side: f32,
  flattest: f32,
  bias: f32,
  most: f32,
): usize {
  bound(samples, count, side == 0 ? 1 : side, bias)
  const most2 = f32x4.splat(most * most)
  const zero = f32x4.splat(0)
  // A little lower than the lowest origin, for what rounding may do.
  const slack = f32x4.splat(side == 0 ? -Infinity : lowest - most * 1e-6)
  const FLATTEST = f32x4.splat(flattest)
  // Of each child that is kept: a number to put it in order by, its squared distance with its own number in the last bits; and where its
  // node has it.
  const keys = fan + (MAX_CHILDREN / 4) * NODE
  const places = keys + MAX_CHILDREN * 4
  let kept: usize = 0
  let top = stack + 4
  store<i32>(stack, 0)
  while (top > stack) {
    top -= 4
    const node = nodes + <usize>load<i32>(top) * NODE
    const ax = v128.load(node)
    const ay = v128.load(node + 16)
    const az = v128.load(node + 32)
    const bx = v128.load(node + 48)
    const by = v128.load(node + 64)
    const bz = v128.load(node + 80)
    const gx = gap(ax, bx, lowX, highX)
    const gy = gap(ay, by, lowY, highY)
    const gz = gap(az, bz, lowZ, highZ)
    const square = f32x4.add(f32x4.mul(gx, gx), f32x4.add(f32x4.mul(gy, gy), f32x4.mul(gz, gz)))
    const near = i32x4.bitmask(
      v128.and(
        f32x4.le(square, most2),
        f32x4.gt(reachOver(ax, ay, az, bx, by, bz), f32x4.add(slack, f32x4.mul(FLATTEST, f32x4.sqrt(square)))),
      ),
    )
    const ofBlocks = near & i32x4.bitmask(v128.load(node + 96))
    // Boxes about the origins are opened: all rays enter them. Each that waits on the stack, in four bytes, may have four children kept.
    const opened =
      kept + (top - stack) + 16 <= MAX_CHILDREN ? (near ^ ofBlocks) & i32x4.bitmask(f32x4.eq(square, zero)) : 0
    top = pushed(top, node, opened)
    v128.store(stack + SQUARES, square)
    for (let rest = near ^ opened; rest; rest &= rest - 1) {
      const j = ctz(rest)
      const lane = (<usize>j) << 2
      if ((ofBlocks >> j) & 1 && isBelow(blocks + <usize>~load<i32>(node + 96 + lane) * BLOCK, slack)) continue
      store<i32>(keys + (kept << 2), (load<i32>(stack + SQUARES + lane) & ~63) | (<i32>kept))
      store<usize>(places + (kept << 2), node + lane)
      kept++
    }
  }
  // What is left of the last four comes last.
  const whole = (kept + 3) & ~3
  for (let i = kept; i < whole; i++) store<i32>(keys + (i << 2), 0x7fffffff)
  for (let i: usize = 0; i < kept; i++) {
    // Its place is how many are nearer: that is found without a branch, as none could be foretold.
    const own = v128.load32_splat(keys + (i << 2))
    let nearer = i32x4.splat(0)
    for (let k: usize = 0; k < whole; k += 4) nearer = i32x4.sub(nearer, i32x4.lt_s(v128.load(keys + (k << 2)), own))
    nearer = i32x4.add(nearer, v128.shuffle<i32>(nearer, nearer, 2, 3, 0, 1))
    const place = <usize>(i32x4.extract_lane(nearer, 0) + i32x4.extract_lane(nearer, 1))
    const child = load<usize>(places + (i << 2))
    const to = fan + (place >> 2) * NODE + ((place & 3) << 2)
    for (let k: usize = 0; k < 112; k += 16) store<f32>(to + k, load<f32>(child + k))
  }
  for (let i = kept; i < whole; i++) {
    const to = fan + (i >> 2) * NODE + ((i & 3) << 2)
    for (let k: usize = 0; k < 96; k += 16) store<f32>(to + k, k < 48 ? 1e30 : -1e30)
    store<i32>(to, EMPTY, 96)
  }
  return fan + (whole >> 2) * NODE
}
