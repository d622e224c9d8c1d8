import { alongEdge, maps, owner, places, shareOf, width, height, nextEdge } from './islands'

/**
 * Twins of core/mesh/seams/strips.ts: texels of an island beside a stretch of its border, and where they lie beyond the other island's. Of
 * the layout and the raster that beginLayout and beginRaster were told.
 */
/** Of edges equally near the one that a texel is more squarely in front of counts; equal within this share of the distance squared. */
const EQUAL: f64 = 1e-4

/**
 * Finds texels of `island` within `reach` of border edges (i32), with the nearest one, in a box of the raster: `nearest` (i32) their
 * edges, −1 to begin with; `away` (f32) the distances squared, `squarely` (f32) how far they are in front. Gives how many there are;
 * `found` (i32) tells which of the box, in the order they were come upon.
 */
export function findBeside(
  edges: usize,
  count: i32,
  island: i32,
  reach: f64,
  left: i32,
  top: i32,
  boxWidth: i32,
  nearest: usize,
  away: usize,
  squarely: usize,
  found: usize,
): i32 {
  const far = reach * reach
  let done: usize = 0
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
        const at = (y - top) * boxWidth + x - left
        const here = (<usize>at) << 2
        if (load<i32>(nearest + here) >= 0) {
          const before = <f64>load<f32>(away + here)
          if (off > before * (1 + EQUAL)) continue
          if (off > before * (1 - EQUAL) && front <= <f64>load<f32>(squarely + here)) continue
        } else {
          store<i32>(found + (done << 2), at)
          done++
        }
        store<i32>(nearest + here, edge)
        store<f32>(away + here, <f32>off)
        store<f32>(squarely + here, <f32>front)
      }
  }
  return <i32>done
}

/**
 * Where texels that findBeside found lie beyond the other island's border: their foot on the edge by the edge's map, the rest by `turns`
 * (eight f64 an edge: linear parts at both of its ends). Those that lie farther than `reach` from the foot are left out. Gives how many
 * are left; `out` eight numbers of 4 bytes each: the texel of the raster (i32), its distance, the place, the linear part of the way (f32).
 */
export function layBeside(
  found: usize,
  count: i32,
  left: i32,
  top: i32,
  boxWidth: i32,
  nearest: usize,
  away: usize,
  turns: usize,
  reach: f64,
  out: usize,
): i32 {
  const from = out
  for (let i = 0; i < count; i++) {
    const at = load<i32>(found + ((<usize>i) << 2))
    const texelX = (at % boxWidth) + left
    const texelY = at / boxWidth + top
    const edge = load<i32>(nearest + ((<usize>at) << 2))
    const x = <f64>texelX + 0.5
    const y = <f64>texelY + 0.5
    const held = shareOf(edge, x, y)
    const along: f64 = held < 0 ? 0 : held > 1 ? 1 : held
    const fx = alongEdge(edge, along, 0)
    const fy = alongEdge(edge, along, 8)
    const turn = turns + ((<usize>edge) << 6)
    const a = load<f64>(turn) * (1 - along) + load<f64>(turn, 32) * along
    const b = load<f64>(turn, 8) * (1 - along) + load<f64>(turn, 40) * along
    const c = load<f64>(turn, 16) * (1 - along) + load<f64>(turn, 48) * along
    const d = load<f64>(turn, 24) * (1 - along) + load<f64>(turn, 56) * along
    const map = maps + <usize>edge * 48
    const footX = load<f64>(map) * fx + load<f64>(map, 8) * fy + load<f64>(map, 16)
    const footY = load<f64>(map, 24) * fx + load<f64>(map, 32) * fy + load<f64>(map, 40)
    const thereX = footX + a * (x - fx) + b * (y - fy)
    const thereY = footY + c * (x - fx) + d * (y - fy)
    const dx = thereX - footX
    const dy = thereY - footY
    if (dx * dx + dy * dy > reach * reach) continue
    store<i32>(out, texelY * width + texelX)
    store<f32>(out, <f32>Math.sqrt(<f64>load<f32>(away + ((<usize>at) << 2))), 4)
    store<f32>(out, <f32>thereX, 8)
    store<f32>(out, <f32>thereY, 12)
    store<f32>(out, <f32>a, 16)
    store<f32>(out, <f32>b, 20)
    store<f32>(out, <f32>c, 24)
    store<f32>(out, <f32>d, 28)
    out += 32
  }
  return <i32>((out - from) >> 5)
}
