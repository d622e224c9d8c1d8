/**
 * A bounding-volume tree with four children a node over triangles, and rays through it.
 *
 * Node: 128 bytes: least x, y, z and greatest x, y, z of four children (six vectors), then four children (i32): a node, `~` a block of
 * triangles, or EMPTY. Block: 160 bytes: first corner, first and second edge of four triangles (nine vectors), then their numbers.
 * Sources: surface-area heuristic over bins: I. Wald, "On fast construction of SAH-based bounding volume hierarchies", 2007; triangles:
 * T. Möller, B. Trumbore, "Fast, minimum storage ray/triangle intersection", 1997.
 */
const NODE: usize = 128
const BLOCK: usize = 160
const EMPTY: i32 = 0x7fffffff
const BINS: i32 = 16
const FAR: f32 = 1e30
/** From this depth on halves are cut without looking, so that the depth has an end. */
const DEEP: i32 = 160
/** Bytes of what a level of the build holds, and of one bin. */
const FRAME: usize = 192
const CHILD: usize = 48
const BIN: usize = 48

let positionsAt: usize = 0
let trianglesAt: usize = 0
let orderAt: usize = 0
let middlesAt: usize = 0
let boxesAt: usize = 0
let framesAt: usize = 0
let binsAt: usize = 0
let nodesAt: usize = 0
let blocksAt: usize = 0
let nodeCount: i32 = 0
let blockCount: i32 = 0

/** A box is two vectors: least x, y, z and greatest x, y, z; the fourth number is nobody's. */
function clear(box: usize): void {
  v128.store(box, f32x4.splat(FAR))
  v128.store(box + 16, f32x4.splat(-FAR))
}

function grow(box: usize, by: usize): void {
  v128.store(box, f32x4.pmin(v128.load(box), v128.load(by)))
  v128.store(box + 16, f32x4.pmax(v128.load(box + 16), v128.load(by + 16)))
}

function half(box: usize): f32 {
  const size = f32x4.sub(v128.load(box + 16), v128.load(box))
  const x = f32x4.extract_lane(size, 0)
  const y = f32x4.extract_lane(size, 1)
  const z = f32x4.extract_lane(size, 2)
  return x < 0 ? 0 : x * y + y * z + z * x
}

function faceAt(i: i32): usize {
  return load<u32>(orderAt + ((<usize>i) << 2))
}

function around(box: usize, from: i32, to: i32): void {
  let min = f32x4.splat(FAR)
  let max = f32x4.splat(-FAR)
  for (let i = from; i < to; i++) {
    const at = boxesAt + (faceAt(i) << 5)
    min = f32x4.pmin(min, v128.load(at))
    max = f32x4.pmax(max, v128.load(at + 16))
  }
  v128.store(box, min)
  v128.store(box + 16, max)
}

/** Sorts triangles `from` to `to` into two; the first of the second. */
function split(from: i32, to: i32, depth: i32): i32 {
  const middle = (from + to) >>> 1
  if (depth > DEEP) return middle
  const extent = binsAt + <usize>BINS * BIN
  let low = f32x4.splat(FAR)
  let high = f32x4.splat(-FAR)
  for (let i = from; i < to; i++) {
    const v = v128.load(middlesAt + (faceAt(i) << 4))
    low = f32x4.pmin(low, v)
    high = f32x4.pmax(high, v)
  }
  v128.store(extent, low)
  v128.store(extent + 16, high)
  let best: f32 = FAR
  let bestAxis: i32 = -1
  let bestBin: i32 = 0
  const rights = extent + 32
  const box = rights + <usize>BINS * 8
  for (let axis: i32 = 0; axis < 3; axis++) {
    const min = load<f32>(extent + ((<usize>axis) << 2))
    const width = load<f32>(extent + ((<usize>axis) << 2) + 16) - min
    if (width < 1e-20) continue
    for (let bin: i32 = 0; bin < BINS; bin++) {
      clear(binsAt + <usize>bin * BIN)
      store<i32>(binsAt + <usize>bin * BIN + 32, 0)
    }
    const scale = (<f32>BINS * <f32>0.9999) / width
    for (let i = from; i < to; i++) {
      const face = faceAt(i)
      const bin =
        binsAt + <usize>(<i32>((load<f32>(middlesAt + (face << 4) + ((<usize>axis) << 2)) - min) * scale)) * BIN
      store<i32>(bin + 32, load<i32>(bin + 32) + 1)
      grow(bin, boxesAt + (face << 5))
    }
    clear(box)
    let count: i32 = 0
    for (let bin = BINS - 1; bin > 0; bin--) {
      count += load<i32>(binsAt + <usize>bin * BIN + 32)
      grow(box, binsAt + <usize>bin * BIN)
      store<f32>(rights + <usize>bin * 8, half(box))
      store<i32>(rights + <usize>bin * 8 + 4, count)
    }
    clear(box)
    count = 0
    for (let bin: i32 = 1; bin < BINS; bin++) {
      count += load<i32>(binsAt + <usize>(bin - 1) * BIN + 32)
      grow(box, binsAt + <usize>(bin - 1) * BIN)
      const right = load<i32>(rights + <usize>bin * 8 + 4)
      if (count == 0 || right == 0) continue
      const cost = half(box) * <f32>((count + 3) >> 2) + load<f32>(rights + <usize>bin * 8) * <f32>((right + 3) >> 2)
      if (cost < best) {
        best = cost
        bestAxis = axis
        bestBin = bin
      }
    }
  }
  if (bestAxis < 0) return middle
  const shift = (<usize>bestAxis) << 2
  const min = load<f32>(extent + shift)
  const scale = (<f32>BINS * <f32>0.9999) / (load<f32>(extent + shift + 16) - min)
  let i = from
  let j = to - 1
  while (i <= j) {
    const bin = <i32>((load<f32>(middlesAt + (faceAt(i) << 4) + shift) - min) * scale)
    if (bin < bestBin) i++
    else {
      const a = orderAt + ((<usize>i) << 2)
      const b = orderAt + ((<usize>j) << 2)
      const face = load<u32>(a)
      store<u32>(a, load<u32>(b))
      store<u32>(b, face)
      j--
    }
  }
  return i == from || i == to ? middle : i
}

function makeBlock(from: i32, to: i32): i32 {
  const block = blocksAt + <usize>blockCount * BLOCK
  memory.fill(block, 0, BLOCK)
  for (let i = from; i < to; i++) {
    const face = faceAt(i)
    const lane = (<usize>(i - from)) << 2
    const a = positionsAt + <usize>load<u32>(trianglesAt + face * 12) * 12
    const b = positionsAt + <usize>load<u32>(trianglesAt + face * 12 + 4) * 12
    const c = positionsAt + <usize>load<u32>(trianglesAt + face * 12 + 8) * 12
    for (let k: usize = 0; k < 3; k++) {
      const v = load<f32>(a + (k << 2))
      store<f32>(block + (k << 4) + lane, v)
      store<f32>(block + 48 + (k << 4) + lane, load<f32>(b + (k << 2)) - v)
      store<f32>(block + 96 + (k << 4) + lane, load<f32>(c + (k << 2)) - v)
    }
    store<u32>(block + 144 + lane, <u32>face)
  }
  return ~blockCount++
}

/** Makes a node of a range; its number. */
function makeNode(from: i32, to: i32, depth: i32): i32 {
  const node = nodeCount++
  // Of each child: its box, its first triangle and the one after its last.
  const frame = framesAt + <usize>depth * FRAME
  around(frame, from, to)
  store<i32>(frame + 32, from)
  store<i32>(frame + 36, to)
  let children: i32 = 1
  while (children < 4) {
    let widest: f32 = -1
    let chosen: i32 = -1
    for (let i: i32 = 0; i < children; i++) {
      const child = frame + <usize>i * CHILD
      if (load<i32>(child + 36) - load<i32>(child + 32) <= 4) continue
      const size = half(child)
      if (size > widest) {
        widest = size
        chosen = i
      }
    }
    if (chosen < 0) break
    const child = frame + <usize>chosen * CHILD
    const other = frame + <usize>children * CHILD
    const end = load<i32>(child + 36)
    const middle = split(load<i32>(child + 32), end, depth)
    store<i32>(other + 32, middle)
    store<i32>(other + 36, end)
    store<i32>(child + 36, middle)
    around(child, load<i32>(child + 32), middle)
    around(other, middle, end)
    children++
  }
  const at = nodesAt + <usize>node * NODE
  for (let i: i32 = 0; i < 4; i++) {
    const lane = (<usize>i) << 2
    const child = frame + <usize>i * CHILD
    for (let k: usize = 0; k < 3; k++) {
      store<f32>(at + (k << 4) + lane, i < children ? load<f32>(child + (k << 2)) : FAR)
      store<f32>(at + 48 + (k << 4) + lane, i < children ? load<f32>(child + 16 + (k << 2)) : -FAR)
    }
    let number = EMPTY
    if (i < children) {
      const first = load<i32>(child + 32)
      const end = load<i32>(child + 36)
      number = end - first <= 4 ? makeBlock(first, end) : makeNode(first, end, depth + 1)
    }
    store<i32>(at + 96 + lane, number)
  }
  return node
}

/** The place of a vertex; the fourth number is 0. */
function corner(positions: usize, vertex: u32): v128 {
  const at = positions + <usize>vertex * 12
  return f32x4.replace_lane(v128.load64_zero(at), 2, load<f32>(at + 8))
}

/**
 * Builds a tree; the number of its nodes, that of its blocks being at `scratch`. `scratch` holds 52 bytes a triangle and 64 kB, `nodes`
 * and `blocks` room for one of each a triangle, at least one.
 */
export function buildTree(
  positions: usize,
  triangles: usize,
  count: i32,
  scratch: usize,
  nodes: usize,
  blocks: usize,
): i32 {
  positionsAt = positions
  trianglesAt = triangles
  framesAt = scratch + 64
  binsAt = framesAt + 256 * FRAME
  orderAt = scratch + 65536
  middlesAt = (orderAt + ((<usize>count) << 2) + 15) & ~15
  boxesAt = middlesAt + ((<usize>count) << 4)
  nodesAt = nodes
  blocksAt = blocks
  nodeCount = 0
  blockCount = 0
  for (let f: i32 = 0; f < count; f++) {
    const face = <usize>f
    store<u32>(orderAt + (face << 2), f)
    const box = boxesAt + (face << 5)
    const a = corner(positions, load<u32>(triangles + face * 12))
    const b = corner(positions, load<u32>(triangles + face * 12 + 4))
    const c = corner(positions, load<u32>(triangles + face * 12 + 8))
    const min = f32x4.pmin(f32x4.pmin(a, b), c)
    const max = f32x4.pmax(f32x4.pmax(a, b), c)
    v128.store(box, min)
    v128.store(box + 16, max)
    v128.store(middlesAt + (face << 4), f32x4.mul(f32x4.splat(0.5), f32x4.add(min, max)))
  }
  makeNode(0, count, 0)
  store<i32>(scratch, blockCount)
  return nodeCount
}

/** Of the last hit: how far, which triangle, and the weights of its second and third corner. */
export let hitT: f32 = 0
export let hitFace: u32 = 0
export let hitU: f32 = 0
export let hitV: f32 = 0

/** Whether a ray meets a triangle between 0 and `most`: any, or the nearest, which the globals tell then. `stack` holds 16 kB. */
export function trace(
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
  any: bool,
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
  const one = f32x4.splat(1)
  let top: usize = stack
  store<i32>(top, 0)
  store<f32>(top + 4, 0)
  top += 8
  let found = false
  while (top > stack) {
    top -= 8
    let child = load<i32>(top)
    if (!any && load<f32>(top + 4) >= most) continue
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
      v128.store(stack + 16352, enter)
      let nearest: i32 = 0
      let min: f32 = Infinity
      for (let rest = mask; rest; rest &= rest - 1) {
        const j = ctz(rest)
        const t = load<f32>(stack + 16352 + ((<usize>j) << 2))
        if (t < min) {
          min = t
          nearest = j
        }
      }
      mask &= ~(1 << nearest)
      if (any)
        for (; mask; mask &= mask - 1) {
          store<i32>(top, load<i32>(node + 96 + ((<usize>ctz(mask)) << 2)))
          top += 8
        }
      else {
        const base = top
        for (; mask; mask &= mask - 1) {
          const j = (<usize>ctz(mask)) << 2
          const t = load<f32>(stack + 16352 + j)
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
      }
      child = load<i32>(node + 96 + ((<usize>nearest) << 2))
    }
    if (child == EMPTY) continue
    const block = blocks + <usize>~child * BLOCK
    const ax = v128.load(block + 48)
    const ay = v128.load(block + 64)
    const az = v128.load(block + 80)
    const bx = v128.load(block + 96)
    const by = v128.load(block + 112)
    const bz = v128.load(block + 128)
    const px = f32x4.sub(f32x4.mul(DY, bz), f32x4.mul(DZ, by))
    const py = f32x4.sub(f32x4.mul(DZ, bx), f32x4.mul(DX, bz))
    const pz = f32x4.sub(f32x4.mul(DX, by), f32x4.mul(DY, bx))
    const det = f32x4.add(f32x4.mul(ax, px), f32x4.add(f32x4.mul(ay, py), f32x4.mul(az, pz)))
    const inverse = f32x4.div(one, det)
    const sx = f32x4.sub(OX, v128.load(block))
    const sy = f32x4.sub(OY, v128.load(block + 16))
    const sz = f32x4.sub(OZ, v128.load(block + 32))
    const u = f32x4.mul(inverse, f32x4.add(f32x4.mul(sx, px), f32x4.add(f32x4.mul(sy, py), f32x4.mul(sz, pz))))
    const qx = f32x4.sub(f32x4.mul(sy, az), f32x4.mul(sz, ay))
    const qy = f32x4.sub(f32x4.mul(sz, ax), f32x4.mul(sx, az))
    const qz = f32x4.sub(f32x4.mul(sx, ay), f32x4.mul(sy, ax))
    const v = f32x4.mul(inverse, f32x4.add(f32x4.mul(DX, qx), f32x4.add(f32x4.mul(DY, qy), f32x4.mul(DZ, qz))))
    const t = f32x4.mul(inverse, f32x4.add(f32x4.mul(bx, qx), f32x4.add(f32x4.mul(by, qy), f32x4.mul(bz, qz))))
    const within = v128.and(
      v128.and(v128.and(f32x4.ge(u, zero), f32x4.ge(v, zero)), f32x4.le(f32x4.add(u, v), one)),
      v128.and(v128.and(f32x4.ne(det, zero), f32x4.gt(t, zero)), f32x4.lt(t, f32x4.splat(most))),
    )
    let mask = i32x4.bitmask(within)
    if (mask == 0) continue
    if (any) return true
    v128.store(stack + 16352, t)
    v128.store(stack + 16320, u)
    v128.store(stack + 16336, v)
    for (; mask; mask &= mask - 1) {
      const j = (<usize>ctz(mask)) << 2
      const at = load<f32>(stack + 16352 + j)
      if (at >= most) continue
      most = at
      found = true
      hitT = at
      hitFace = load<u32>(block + 144 + j)
      hitU = load<f32>(stack + 16320 + j)
      hitV = load<f32>(stack + 16336 + j)
    }
  }
  return found
}

/** For each ray (origin, direction, how far: seven numbers) 1 where it meets something, else 0. */
export function anyHits(nodes: usize, blocks: usize, stack: usize, rays: usize, count: i32, out: usize): void {
  for (let i: i32 = 0; i < count; i++) {
    const at = rays + <usize>i * 28
    const hit = trace(
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
      true,
    )
    store<f32>(out + ((<usize>i) << 2), hit ? 1 : 0)
  }
}

/** For each ray: how far the nearest is (−1: none), its triangle's number (as bits), and the weights of its second and third corner. */
export function closestHits(nodes: usize, blocks: usize, stack: usize, rays: usize, count: i32, out: usize): void {
  for (let i: i32 = 0; i < count; i++) {
    const at = rays + <usize>i * 28
    const hit = trace(
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
      false,
    )
    const to = out + ((<usize>i) << 4)
    store<f32>(to, hit ? hitT : -1)
    store<u32>(to + 4, hit ? hitFace : 0)
    store<f32>(to + 8, hit ? hitU : 0)
    store<f32>(to + 12, hit ? hitV : 0)
  }
}
