import type { Topology } from './topology'
import type { Unfolding } from './unfolding'

/** Texels of an island: their centre lies inside, or they are touched by it or next to one that is. */
export const CORE = 2
export const RIM = 1

/** An island's own texels over its box; `cover` is CORE, RIM or 0. */
export interface IslandBox {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
  readonly cover: Uint8Array
}

/** Which island each texel of the raster belongs to (−1 none): cores first, in order, then rims. */
export interface Cover {
  readonly owner: Int32Array
  readonly boxes: readonly IslandBox[]
}

export async function coverOf(
  topology: Topology,
  unfolding: Unfolding,
  breathe: () => Promise<void> = async () => {},
): Promise<Cover> {
  const { width, height } = unfolding
  const owner = new Int32Array(width * height).fill(-1)
  const boxes: IslandBox[] = []
  for (const triangles of topology.islands) {
    await breathe()
    boxes.push(boxOf(triangles, unfolding))
  }
  const claim = (level: number): void =>
    boxes.forEach((box, island) => {
      const right = Math.min(box.width, width - box.left)
      const bottom = Math.min(box.height, height - box.top)
      for (let y = Math.max(0, -box.top); y < bottom; y++)
        for (let x = Math.max(0, -box.left); x < right; x++) {
          if (box.cover[y * box.width + x] !== level) continue
          const at = (y + box.top) * width + x + box.left
          if (owner[at]! < 0) owner[at] = island
        }
    })
  claim(CORE)
  claim(RIM)
  return { owner, boxes }
}

function boxOf(triangles: readonly number[], { places, lines, width: columns, height: rows }: Unfolding): IslandBox {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const t of triangles)
    for (let corner = t * 3; corner < t * 3 + 3; corner++) {
      left = Math.min(left, places[corner * 2]!)
      right = Math.max(right, places[corner * 2]!)
      top = Math.min(top, places[corner * 2 + 1]!)
      bottom = Math.max(bottom, places[corner * 2 + 1]!)
    }
  // One in another tile has no texel here.
  if (right < 0 || bottom < 0 || left >= columns || top >= rows)
    return { left: 0, top: 0, width: 0, height: 0, cover: new Uint8Array(0) }
  left = Math.floor(left) - 2
  top = Math.floor(top) - 2
  const [width, height] = [Math.ceil(right) + 2 - left, Math.ceil(bottom) + 2 - top]
  const cover = new Uint8Array(width * height)
  for (const t of triangles) coverTriangle(t, places, lines, left, top, width, cover)
  return { left, top, width, height, cover: withNeighbours(cover, width, height) }
}

function coverTriangle(
  t: number,
  places: Float64Array,
  lines: Float64Array,
  left: number,
  top: number,
  width: number,
  cover: Uint8Array,
): void {
  const c = t * 6
  const l = t * 9
  const fromX = Math.floor(Math.min(places[c]!, places[c + 2]!, places[c + 4]!))
  const toX = Math.ceil(Math.max(places[c]!, places[c + 2]!, places[c + 4]!))
  const fromY = Math.floor(Math.min(places[c + 1]!, places[c + 3]!, places[c + 5]!))
  const toY = Math.ceil(Math.max(places[c + 1]!, places[c + 3]!, places[c + 5]!))
  // Half a texel's square along each edge's normal.
  const half0 = (Math.abs(lines[l]!) + Math.abs(lines[l + 1]!)) / -2
  const half1 = (Math.abs(lines[l + 3]!) + Math.abs(lines[l + 4]!)) / -2
  const half2 = (Math.abs(lines[l + 6]!) + Math.abs(lines[l + 7]!)) / -2
  for (let y = fromY; y < toY; y++)
    for (let x = fromX; x < toX; x++) {
      const first = lines[l]! * (x + 0.5) + lines[l + 1]! * (y + 0.5) + lines[l + 2]!
      if (first < half0) continue
      const second = lines[l + 3]! * (x + 0.5) + lines[l + 4]! * (y + 0.5) + lines[l + 5]!
      if (second < half1) continue
      const third = lines[l + 6]! * (x + 0.5) + lines[l + 7]! * (y + 0.5) + lines[l + 8]!
      if (third < half2) continue
      const at = (y - top) * width + x - left
      if (first >= -1e-9 && second >= -1e-9 && third >= -1e-9) cover[at] = CORE
      else if (cover[at] === 0) cover[at] = RIM
    }
}

/** The eight neighbours of all that is touched are rim too, so that every bilinear foot of every border point is owned. */
function withNeighbours(touched: Uint8Array, width: number, height: number): Uint8Array {
  const cover = touched.slice()
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const at = y * width + x
      if (touched[at] !== 0) continue
      const above = touched[at - width - 1]! | touched[at - width]! | touched[at - width + 1]!
      const below = touched[at + width - 1]! | touched[at + width]! | touched[at + width + 1]!
      if ((above | below | touched[at - 1]! | touched[at + 1]!) !== 0) cover[at] = RIM
    }
  return cover
}
