import { heapHere } from '../../kernels/heap-here'
import { LentMemory } from '../../kernels/lent-memory'
import { requiredSimd } from '../../kernels/simd'
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

/** Finds them; takes time with the texels of islands. Throws what `breathe` throws, memory-budget without SIMD. */
export async function coverOf(
  topology: Topology,
  unfolding: Unfolding,
  breathe: () => Promise<void> = async () => {},
): Promise<Cover> {
  const { width, height } = unfolding
  const { assembly } = requiredSimd('Islands are found')
  const memory = new LentMemory(heapHere()!)
  try {
    const [places, lines] = [memory.copied(unfolding.places).byteOffset, memory.copied(unfolding.lines).byteOffset]
    const boxes: (Omit<IslandBox, 'cover'> & { readonly at: Uint8Array })[] = []
    for (const triangles of topology.islands) {
      await breathe()
      const box = boxOf(triangles, unfolding)
      const texels = box.width * box.height
      const [touched, at] = [memory.room(Uint8Array, texels).fill(0), memory.room(Uint8Array, texels)]
      const list = memory.copied(Int32Array.from(triangles))
      const { left, top } = box
      if (texels > 0) {
        assembly.coverTriangles(
          list.byteOffset,
          triangles.length,
          places,
          lines,
          left,
          top,
          box.width,
          touched.byteOffset,
        )
        assembly.addNeighbours(touched.byteOffset, at.byteOffset, box.width, box.height)
      }
      memory.giveBack(touched, list)
      boxes.push({ ...box, at })
    }
    const owner = memory.room(Int32Array, width * height).fill(-1)
    assembly.beginRaster(owner.byteOffset, width, height)
    for (const level of [CORE, RIM])
      boxes.forEach((box, island) =>
        assembly.claimTexels(box.at.byteOffset, level, island, box.left, box.top, box.width, box.height),
      )
    return {
      owner: owner.slice(),
      boxes: boxes.map(({ at, ...box }) => ({ ...box, cover: at.slice(0, box.width * box.height) })),
    }
  } finally {
    memory.end()
  }
}

/** The texels that an island's triangles may touch, and two more on each side. */
function boxOf(
  triangles: readonly number[],
  { places, width: columns, height: rows }: Unfolding,
): Omit<IslandBox, 'cover'> {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const t of triangles)
    for (let corner = t * 3; corner < t * 3 + 3; corner++) {
      left = Math.min(left, places[corner * 2]!)
      right = Math.max(right, places[corner * 2]!)
      top = Math.min(top, places[corner * 2 + 1]!)
      bottom = Math.max(bottom, places[corner * 2 + 1]!)
    }
  // One in another tile has no texel here.
  if (right < 0 || bottom < 0 || left >= columns || top >= rows) return { left: 0, top: 0, width: 0, height: 0 }
  left = Math.floor(left) - 2
  top = Math.floor(top) - 2
  return { left, top, width: Math.ceil(right) + 2 - left, height: Math.ceil(bottom) + 2 - top }
}
