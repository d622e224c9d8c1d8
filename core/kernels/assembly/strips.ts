import { alongEdge, isReadable, maps, owner, places, readX, readY, shareOf, width, height, nextEdge } from './islands'
import { READ_BYTES, packTurned } from './reads'

/**
 * Twins of core/mesh/seams/strips.ts: texels of an island beside a stretch of its border, and where they lie beyond the other island's. Of
 * the layout and the raster that beginLayout and beginRaster were told.
 */
/** Of edges equally near the one that a texel is more squarely in front of counts; equal within this share of the distance squared. */
const EQUAL: f64 = 1e-4
const CORE: u8 = 2

let island: i32 = 0
let left: i32 = 0
let top: i32 = 0
let columns: i32 = 0
let texelCount: i32 = 0
let nearest: usize = 0
let away: usize = 0
let squarely: usize = 0

/**
 * A box of the raster for texels of one island: by texel `nearest` (i32) the edge beside it, −1 to begin with; `away` (f32) its distance
 * squared, `squarely` (f32) how far it is in front.
 */
export function beginBeside(
  ofIsland: i32,
  boxLeft: i32,
  boxTop: i32,
  boxWidth: i32,
  boxHeight: i32,
  nearestAt: usize,
  awayAt: usize,
  squarelyAt: usize,
): void {
  island = ofIsland
  left = boxLeft
  top = boxTop
  columns = boxWidth
  texelCount = boxWidth * boxHeight
  nearest = nearestAt
  away = awayAt
  squarely = squarelyAt
  memory.fill(nearest, 0xff, (<usize>texelCount) << 2)
}

/** Finds texels within `reach` of border edges (i32), with the nearest one. Gives how many there are. */
export function findBeside(edges: usize, count: i32, reach: f64): i32 {
  const far = reach * reach
  let done = 0
  for (let k = 0; k < count; k++) {
    const edge = load<i32>(edges + ((<usize>k) << 2))
    const begin = places + ((<usize>edge) << 4)
    const end = places + ((<usize>nextEdge(edge)) << 4)
    const ax = load<f64>(begin)
    const ay = load<f64>(begin, 8)
    const bx = load<f64>(end) - ax
    const by = load<f64>(end, 8) - ay
    const length2 = bx * bx + by * by
    const toY = min(height - 1, <i32>Math.ceil(max(ay, ay + by) + reach))
    const toX = min(width - 1, <i32>Math.ceil(max(ax, ax + bx) + reach))
    const fromX = max(0, <i32>Math.floor(min(ax, ax + bx) - reach))
    for (let y = max(0, <i32>Math.floor(min(ay, ay + by) - reach)); y <= toY; y++)
      for (let x = fromX; x <= toX; x++) {
        if (load<i32>(owner + ((<usize>(y * width + x)) << 2)) != island) continue
        const px = <f64>x + 0.5 - ax
        const py = <f64>y + 0.5 - ay
        const share = (px * bx + py * by) / length2
        const along: f64 = share < 0 ? 0 : share > 1 ? 1 : share
        const qx = px - along * bx
        const qy = py - along * by
        const off = qx * qx + qy * qy
        if (off >= far) continue
        const across = px * by - py * bx
        const front = (across * across) / length2
        const here = (<usize>((y - top) * columns + x - left)) << 2
        if (load<i32>(nearest + here) >= 0) {
          const before = <f64>load<f32>(away + here)
          if (off > before * (1 + EQUAL)) continue
          if (off > before * (1 - EQUAL) && front <= <f64>load<f32>(squarely + here)) continue
        } else done++
        store<i32>(nearest + here, edge)
        store<f32>(away + here, <f32>off)
        store<f32>(squarely + here, <f32>front)
      }
  }
  return done
}

let turns: usize = 0
let cover: usize = 0
let coverLeft: i32 = 0
let coverTop: i32 = 0
let coverWidth: i32 = 0
let texels: usize = 0
let distances: usize = 0
let reads: usize = 0

/**
 * What is written of such texels, row by row: `texels` (u32) of the raster, `distances` (f32) to the edge, negative where their middle lies
 * beyond the border (`cover` and where it lies, as an IslandBox has it), and `reads`. `turns` are eight f64 an edge: the linear parts of
 * the ways there at both of its ends.
 */
export function beginLaying(
  turnsAt: usize,
  coverAt: usize,
  boxLeft: i32,
  boxTop: i32,
  boxWidth: i32,
  texelsAt: usize,
  distancesAt: usize,
  readsAt: usize,
): void {
  turns = turnsAt
  cover = coverAt
  coverLeft = boxLeft
  coverTop = boxTop
  coverWidth = boxWidth
  texels = texelsAt
  distances = distancesAt
  reads = readsAt
}

/** Of a texel: its nearest place on the edge, that on the other side, and the linear part of the way there. */
let x: f64 = 0
let y: f64 = 0
let ownX: f64 = 0
let ownY: f64 = 0
let otherX: f64 = 0
let otherY: f64 = 0
let a: f64 = 0
let b: f64 = 0
let c: f64 = 0
let d: f64 = 0

function findFoot(at: i32, edge: i32): void {
  x = <f64>((at % columns) + left) + 0.5
  y = <f64>(at / columns + top) + 0.5
  const held = shareOf(edge, x, y)
  const along: f64 = held < 0 ? 0 : held > 1 ? 1 : held
  ownX = alongEdge(edge, along, 0)
  ownY = alongEdge(edge, along, 8)
  const turn = turns + ((<usize>edge) << 6)
  a = load<f64>(turn) * (1 - along) + load<f64>(turn, 32) * along
  b = load<f64>(turn, 8) * (1 - along) + load<f64>(turn, 40) * along
  c = load<f64>(turn, 16) * (1 - along) + load<f64>(turn, 48) * along
  d = load<f64>(turn, 24) * (1 - along) + load<f64>(turn, 56) * along
  const map = maps + <usize>edge * 48
  otherX = load<f64>(map) * ownX + load<f64>(map, 8) * ownY + load<f64>(map, 16)
  otherY = load<f64>(map, 24) * ownX + load<f64>(map, 32) * ownY + load<f64>(map, 40)
}

function writeTexel(done: usize, at: i32): void {
  const column = (at % columns) + left
  const row = at / columns + top
  const isCore = load<u8>(cover + <usize>((row - coverTop) * coverWidth + column - coverLeft)) == CORE
  const distance = <f32>Math.sqrt(<f64>load<f32>(away + ((<usize>at) << 2)))
  store<u32>(texels + (done << 2), row * width + column)
  store<f32>(distances + (done << 2), isCore ? distance : -distance)
}

/**
 * Where texels lie beyond the other island's border, in its picture of the raster: their foot on the edge by the edge's map, the rest by
 * the ways there. Those that lie farther than `reach` from the foot are left out, and those that the picture does not hold. Gives how many
 * are written.
 */
export function layTaps(
  reach: f64,
  pictureLeft: i32,
  pictureTop: i32,
  pictureWidth: i32,
  pictureHeight: i32,
  fraction: i32,
): i32 {
  let done: usize = 0
  for (let at = 0; at < texelCount; at++) {
    const edge = load<i32>(nearest + ((<usize>at) << 2))
    if (edge < 0) continue
    findFoot(at, edge)
    const dx = a * (x - ownX) + b * (y - ownY)
    const dy = c * (x - ownX) + d * (y - ownY)
    if (dx * dx + dy * dy > reach * reach) continue
    const px = otherX + dx - 0.5 - <f64>pictureLeft
    const py = otherY + dy - 0.5 - <f64>pictureTop
    if (px < 0 || py < 0 || px > <f64>(pictureWidth - 2) || py > <f64>(pictureHeight - 2)) continue
    packTurned(reads + done * READ_BYTES, fraction, px, py, a, b, c, d)
    writeTexel(done++, at)
  }
  return <i32>done
}

/**
 * Where the feet of texels are read in the raster: on their own side, then on that of island `other`. Those without a texel to be read are
 * left out. Gives how many are written.
 */
export function layFeet(other: i32, fraction: i32): i32 {
  let done: usize = 0
  for (let at = 0; at < texelCount; at++) {
    const edge = load<i32>(nearest + ((<usize>at) << 2))
    if (edge < 0) continue
    findFoot(at, edge)
    const to = reads + done * 2 * READ_BYTES
    if (!isReadable(island, ownX, ownY)) continue
    packTurned(to, fraction, <f64>readX, <f64>readY, 1, 0, 0, 1)
    if (!isReadable(other, otherX, otherY)) continue
    packTurned(to + READ_BYTES, fraction, <f64>readX, <f64>readY, a, b, c, d)
    writeTexel(done++, at)
  }
  return <i32>done
}
