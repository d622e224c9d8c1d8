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
/** Ranges of so many triangles at most are cut without bins: most of them would be empty. */
const SMALL: i32 = 16
const FAR: f32 = 1e30
/** From this depth on halves are cut without looking, so that the depth has an end. */
const DEEP: i32 = 160
/**
 * A triangle while a tree is built: its box, with its number marked in the fourth place of the first vector. Marked numbers are floats of
 * ordinary size, as arithmetic with tiny ones takes a hundred times as long.
 */
const RECORD: usize = 32
const MARK: u32 = 0x40000000
/** Of a child on the way: its box, the box of its triangles' middles, its first triangle and the one after its last. */
const CHILD: usize = 80
const FRAME: usize = CHILD * 4
/** A box and how many triangles are in it. */
const BIN: usize = 48

let positionsAt: usize = 0
let trianglesAt: usize = 0
let recordsAt: usize = 0
let framesAt: usize = 0
let binsAt: usize = 0
let nodesAt: usize = 0
let blocksAt: usize = 0
let nodeCount: i32 = 0
let blockCount: i32 = 0
/** The best cut that was found: its cost, its axis (−1: none), and the first bin of its second half. */
let best: f32 = 0
let bestAxis: i32 = 0
let bestBin: i32 = 0

/** A box is two vectors: least x, y, z and greatest x, y, z; the fourth number is nobody's. */
function clear(box: usize): void {
  v128.store(box, f32x4.splat(FAR))
  v128.store(box + 16, f32x4.splat(-FAR))
}

function grow(box: usize, by: usize): void {
  v128.store(box, f32x4.pmin(v128.load(box), v128.load(by)))
  v128.store(box + 16, f32x4.pmax(v128.load(box + 16), v128.load(by + 16)))
}

/** Half the area of a box's surface. */
function half(box: usize): f32 {
  const size = f32x4.sub(v128.load(box + 16), v128.load(box))
  const x = f32x4.extract_lane(size, 0)
  const y = f32x4.extract_lane(size, 1)
  const z = f32x4.extract_lane(size, 2)
  return x < 0 ? 0 : x * y + y * z + z * x
}

/** Sets a child to triangles `from` to `to`. */
function around(child: usize, from: i32, to: i32): void {
  let min = f32x4.splat(FAR)
  let max = f32x4.splat(-FAR)
  let low = min
  let high = max
  const end = recordsAt + <usize>to * RECORD
  for (let at = recordsAt + <usize>from * RECORD; at < end; at += RECORD) {
    const a = v128.load(at)
    const b = v128.load(at + 16)
    const middle = f32x4.mul(f32x4.splat(0.5), f32x4.add(a, b))
    min = f32x4.pmin(min, a)
    max = f32x4.pmax(max, b)
    low = f32x4.pmin(low, middle)
    high = f32x4.pmax(high, middle)
  }
  v128.store(child, min)
  v128.store(child + 16, max)
  v128.store(child + 32, low)
  v128.store(child + 48, high)
  store<i32>(child + 64, from)
  store<i32>(child + 68, to)
}

/** Sets the best cut to one with `left` triangles in a box and `right` behind `area`, if it costs less. */
function consider(area: f32, left: i32, behind: f32, right: i32, axis: i32, bin: i32): void {
  const cost = area * <f32>((left + 3) >> 2) + behind * <f32>((right + 3) >> 2)
  if (cost >= best) return
  best = cost
  bestAxis = axis
  bestBin = bin
}

/** Looks for the best cut of many triangles: those between bins. */
function considerBins(from: usize, end: usize, low: v128, scale: v128): void {
  for (let bin = binsAt; bin < binsAt + 3 * <usize>BINS * BIN; bin += BIN) {
    clear(bin)
    store<i32>(bin, 0, 32)
  }
  for (let at = from; at < end; at += RECORD) {
    const a = v128.load(at)
    const b = v128.load(at + 16)
    const middle = f32x4.mul(f32x4.splat(0.5), f32x4.add(a, b))
    const place = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(middle, low), scale))
    put(binsAt + <usize>i32x4.extract_lane(place, 0) * BIN, a, b)
    put(binsAt + <usize>(BINS + i32x4.extract_lane(place, 1)) * BIN, a, b)
    put(binsAt + <usize>(2 * BINS + i32x4.extract_lane(place, 2)) * BIN, a, b)
  }
  const rights = binsAt + 3 * <usize>BINS * BIN
  const box = rights + <usize>BINS * 8
  for (let axis: i32 = 0; axis < 3; axis++) {
    const bins = binsAt + <usize>(axis * BINS) * BIN
    clear(box)
    let count: i32 = 0
    for (let bin = BINS - 1; bin > 0; bin--) {
      count += load<i32>(bins + <usize>bin * BIN, 32)
      grow(box, bins + <usize>bin * BIN)
      store<f32>(rights + <usize>bin * 8, half(box))
      store<i32>(rights + <usize>bin * 8, count, 4)
    }
    clear(box)
    count = 0
    for (let bin: i32 = 1; bin < BINS; bin++) {
      const some = load<i32>(bins + <usize>(bin - 1) * BIN, 32)
      // Beyond an empty bin the cut is the same.
      if (some == 0) continue
      count += some
      grow(box, bins + <usize>(bin - 1) * BIN)
      const right = load<i32>(rights + <usize>bin * 8, 4)
      if (right == 0) break
      consider(half(box), count, load<f32>(rights + <usize>bin * 8), right, axis, bin)
    }
  }
}

/** Puts a triangle's box into a bin. */
function put(bin: usize, a: v128, b: v128): void {
  v128.store(bin, f32x4.pmin(v128.load(bin), a))
  v128.store(bin, f32x4.pmax(v128.load(bin, 16), b), 16)
  store<i32>(bin, load<i32>(bin, 32) + 1, 32)
}

/** The same of few triangles, which are put in order of their bins. */
function considerFew(from: usize, end: usize, low: v128, scale: v128): void {
  // Of each axis bins and triangles, 16 of them, as one number each; then areas behind cuts, and a box.
  const keys = binsAt
  const rights = keys + 3 * <usize>SMALL * 4
  const box = rights + <usize>SMALL * 4
  let count: usize = 0
  for (let at = from; at < end; at += RECORD, count++) {
    const middle = f32x4.mul(f32x4.splat(0.5), f32x4.add(v128.load(at), v128.load(at + 16)))
    const place = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(middle, low), scale))
    insert(keys, count, i32x4.extract_lane(place, 0))
    insert(keys + <usize>SMALL * 4, count, i32x4.extract_lane(place, 1))
    insert(keys + <usize>SMALL * 8, count, i32x4.extract_lane(place, 2))
  }
  for (let axis: i32 = 0; axis < 3; axis++) {
    const own = keys + <usize>(axis * SMALL) * 4
    // All in one bin: there is nothing to cut.
    if (load<i32>(own) >> 8 == load<i32>(own + ((count - 1) << 2)) >> 8) continue
    clear(box)
    for (let k = count - 1; k > 0; k--) {
      grow(box, from + <usize>(load<i32>(own + (k << 2)) & 255) * RECORD)
      store<f32>(rights + (k << 2), half(box))
    }
    clear(box)
    for (let k: usize = 1; k < count; k++) {
      const before = load<i32>(own + ((k - 1) << 2))
      grow(box, from + <usize>(before & 255) * RECORD)
      if (before >> 8 == load<i32>(own + (k << 2)) >> 8) continue
      const behind = load<f32>(rights + (k << 2))
      consider(half(box), <i32>k, behind, <i32>(count - k), axis, (before >> 8) + 1)
    }
  }
}

/** Puts triangle `count` among those before it, by its bin. */
function insert(keys: usize, count: usize, bin: i32): void {
  const key = (bin << 8) | (<i32>count)
  let at = keys + (count << 2)
  for (; at > keys && load<i32>(at - 4) > key; at -= 4) store<i32>(at, load<i32>(at - 4))
  store<i32>(at, key)
}

/** Cuts a child in two: its first half stays in its place, `other` is the second. */
function split(child: usize, other: usize, depth: i32): void {
  const first = load<i32>(child + 64)
  const last = load<i32>(child + 68)
  const low = v128.load(child + 32)
  const width = f32x4.sub(v128.load(child + 48), low)
  const isWide = f32x4.ge(width, f32x4.splat(1e-20))
  // Along an axis where all middles are the same all are in the first bin.
  const scale = v128.and(isWide, f32x4.div(f32x4.splat(<f32>BINS * <f32>0.9999), width))
  const from = recordsAt + <usize>first * RECORD
  const end = recordsAt + <usize>last * RECORD
  best = FAR
  bestAxis = -1
  if (depth <= DEEP) {
    if (last - first <= SMALL) considerFew(from, end, low, scale)
    else considerBins(from, end, low, scale)
  }
  if (bestAxis < 0) {
    const middle = (first + last) >>> 1
    around(other, middle, last)
    around(child, first, middle)
    return
  }
  // Into which half a triangle goes, and what both hold.
  const shift = (<usize>bestAxis) << 2
  const base = load<f32>(child + 32 + shift)
  v128.store(binsAt, scale)
  const times = load<f32>(binsAt + shift)
  let minL = f32x4.splat(FAR)
  let maxL = f32x4.splat(-FAR)
  let lowL = minL
  let highL = maxL
  let minR = minL
  let maxR = maxL
  let lowR = minL
  let highR = maxL
  let i = from
  let j = end - RECORD
  while (i <= j) {
    const a = v128.load(i)
    const b = v128.load(i + 16)
    const middle = f32x4.mul(f32x4.splat(0.5), f32x4.add(a, b))
    const along = f32x4.mul(
      f32x4.splat(0.5),
      f32x4.add(v128.load32_splat(i + shift), v128.load32_splat(i + 16 + shift)),
    )
    if (<i32>((f32x4.extract_lane(along, 0) - base) * times) < bestBin) {
      minL = f32x4.pmin(minL, a)
      maxL = f32x4.pmax(maxL, b)
      lowL = f32x4.pmin(lowL, middle)
      highL = f32x4.pmax(highL, middle)
      i += RECORD
    } else {
      minR = f32x4.pmin(minR, a)
      maxR = f32x4.pmax(maxR, b)
      lowR = f32x4.pmin(lowR, middle)
      highR = f32x4.pmax(highR, middle)
      v128.store(i, v128.load(j))
      v128.store(i + 16, v128.load(j + 16))
      v128.store(j, a)
      v128.store(j + 16, b)
      j -= RECORD
    }
  }
  const cut = <i32>((i - recordsAt) / RECORD)
  v128.store(child, minL)
  v128.store(child + 16, maxL)
  v128.store(child + 32, lowL)
  v128.store(child + 48, highL)
  store<i32>(child + 68, cut)
  v128.store(other, minR)
  v128.store(other + 16, maxR)
  v128.store(other + 32, lowR)
  v128.store(other + 48, highR)
  store<i32>(other + 64, cut)
  store<i32>(other + 68, last)
}

function makeBlock(from: i32, to: i32): i32 {
  const block = blocksAt + <usize>blockCount * BLOCK
  memory.fill(block, 0, BLOCK)
  for (let i = from; i < to; i++) {
    const face = <usize>(load<u32>(recordsAt + <usize>i * RECORD, 12) & ~MARK)
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

/** Makes a node of a child of another; its number. */
function makeNode(whole: usize, depth: i32): i32 {
  const node = nodeCount++
  const frame = framesAt + <usize>depth * FRAME
  memory.copy(frame, whole, CHILD)
  let children: i32 = 1
  while (children < 4) {
    let widest: f32 = -1
    let chosen: i32 = -1
    for (let i: i32 = 0; i < children; i++) {
      const child = frame + <usize>i * CHILD
      if (load<i32>(child + 68) - load<i32>(child + 64) <= 4) continue
      const size = half(child)
      if (size > widest) {
        widest = size
        chosen = i
      }
    }
    if (chosen < 0) break
    split(frame + <usize>chosen * CHILD, frame + <usize>children * CHILD, depth)
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
      const first = load<i32>(child + 64)
      const end = load<i32>(child + 68)
      number = end - first <= 4 ? makeBlock(first, end) : makeNode(child, depth + 1)
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
 * Builds a tree; the number of its nodes, that of its blocks being at `scratch`. `scratch` holds 32 bytes a triangle and 128 kB, `nodes`
 * and `blocks` room for one of each a triangle, at least one. At most 2²⁹ triangles.
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
  recordsAt = scratch + 131072
  nodesAt = nodes
  blocksAt = blocks
  nodeCount = 0
  blockCount = 0
  for (let f: i32 = 0; f < count; f++) {
    const face = triangles + <usize>f * 12
    const a = corner(positions, load<u32>(face))
    const b = corner(positions, load<u32>(face + 4))
    const c = corner(positions, load<u32>(face + 8))
    const record = recordsAt + <usize>f * RECORD
    v128.store(record, f32x4.pmin(f32x4.pmin(a, b), c))
    store<u32>(record, f | MARK, 12)
    v128.store(record + 16, f32x4.pmax(f32x4.pmax(a, b), c))
  }
  const whole = binsAt - FRAME
  around(whole, 0, count)
  makeNode(whole, 0)
  store<i32>(scratch, blockCount)
  return nodeCount
}
