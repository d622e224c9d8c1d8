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
    boxes.forEach((box, island) =>
      eachTexel(box, (x, y, cover) => {
        if (cover !== level || x < 0 || y < 0 || x >= width || y >= height) return
        if (owner[y * width + x]! < 0) owner[y * width + x] = island
      }),
    )
  claim(CORE)
  claim(RIM)
  return { owner, boxes }
}

function eachTexel(
  { left, top, width, height, cover }: IslandBox,
  work: (x: number, y: number, cover: number) => void,
): void {
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) work(x + left, y + top, cover[y * width + x]!)
}

function boxOf(triangles: readonly number[], { places, lines }: Unfolding): IslandBox {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const t of triangles)
    for (let corner = t * 3; corner < t * 3 + 3; corner++) {
      left = Math.min(left, places[corner * 2]!)
      right = Math.max(right, places[corner * 2]!)
      top = Math.min(top, places[corner * 2 + 1]!)
      bottom = Math.max(bottom, places[corner * 2 + 1]!)
    }
  left = Math.floor(left) - 2
  top = Math.floor(top) - 2
  const [width, height] = [Math.ceil(right) + 2 - left, Math.ceil(bottom) + 2 - top]
  const cover = new Uint8Array(width * height)
  for (const t of triangles) {
    const corners = [t * 3, t * 3 + 1, t * 3 + 2]
    const xs = corners.map((corner) => places[corner * 2]!)
    const ys = corners.map((corner) => places[corner * 2 + 1]!)
    // Half a texel's square along each edge's normal.
    const half = corners.map((corner) => (Math.abs(lines[corner * 3]!) + Math.abs(lines[corner * 3 + 1]!)) / 2)
    for (let y = Math.floor(Math.min(...ys)); y < Math.ceil(Math.max(...ys)); y++)
      for (let x = Math.floor(Math.min(...xs)); x < Math.ceil(Math.max(...xs)); x++) {
        let [inside, touched] = [true, true]
        for (let k = 0; k < 3; k++) {
          const line = corners[k]! * 3
          const far = lines[line]! * (x + 0.5) + lines[line + 1]! * (y + 0.5) + lines[line + 2]!
          if (far < -1e-9) inside = false
          if (far < -half[k]!) touched = false
        }
        const at = (y - top) * width + x - left
        if (inside) cover[at] = CORE
        else if (touched && cover[at] === 0) cover[at] = RIM
      }
  }
  return { left, top, width, height, cover: withNeighbours(cover, width, height) }
}

/** The eight neighbours of all that is touched are rim too, so that every bilinear foot of every border point is owned. */
function withNeighbours(touched: Uint8Array, width: number, height: number): Uint8Array {
  const cover = touched.slice()
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const at = y * width + x
      if (touched[at] !== 0) continue
      for (let q = -1; q <= 1; q++) for (let p = -1; p <= 1; p++) if (touched[at + q * width + p] !== 0) cover[at] = RIM
    }
  return cover
}
