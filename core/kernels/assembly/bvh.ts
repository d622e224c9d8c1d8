/**
 * A bounding-volume tree with four children a node over triangles; trace.ts sends rays through it.
 *
 * Node: 128 bytes: least x, y, z and greatest x, y, z of four children (six vectors), then four children (i32): a node, `~` a block of
 * triangles, or EMPTY. Block: 160 bytes: first corner, first and second edge of four triangles (nine vectors), then their numbers.
 * Source: surface-area heuristic over bins: I. Wald, "On fast construction of SAH-based bounding volume hierarchies", 2007.
 */
export const NODE: usize = 128
export const BLOCK: usize = 160
export const EMPTY: i32 = 0x7fffffff
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
