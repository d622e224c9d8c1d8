import type { Mesh, MeshPart } from './mesh'
import { firstEqual, weldedVertices } from './welded'

/** Triangles of a part as UV islands: those that hang together over edges whose ends have equal places and equal UVs. */
export interface Islands {
  readonly count: number
  /** The island of each triangle of the part. */
  readonly of: Uint32Array
  /** Edges with a triangle on one side only, two UV points each (u, v, u, v), and the island of each. */
  readonly borders: { readonly points: Float64Array; readonly island: Uint32Array }
}

/** Finds the islands of a part in a UV set. */
export function findIslands(mesh: Mesh, part: MeshPart, uvs: Float32Array): Islands {
  const ids = weldedCorners(mesh, uvs)
  const { triangles } = mesh
  const parents = Uint32Array.from({ length: part.count }, (_, i) => i)
  const root = (t: number): number => {
    while (parents[t] !== t) {
      parents[t] = parents[parents[t]!]!
      t = parents[t]!
    }
    return t
  }
  const edges = new EdgeTable(part.count * 3)
  for (let t = 0; t < part.count; t++)
    for (let k = 0; k < 3; k++) {
      const at = (part.from + t) * 3
      const other = edges.meet(ids[triangles[at + k]!]!, ids[triangles[at + ((k + 1) % 3)]!]!, t * 3 + k)
      if (other >= 0) parents[root(t)] = root(Math.floor(other / 3))
    }
  const numbers = new Int32Array(part.count).fill(-1)
  const of = new Uint32Array(part.count)
  let count = 0
  for (let t = 0; t < part.count; t++) {
    const at = root(t)
    if (numbers[at]! < 0) numbers[at] = count++
    of[t] = numbers[at]!
  }
  return { count, of, borders: bordersOf(edges.single(), of, part, triangles, uvs) }
}

/** One number for all vertices at one place with one UV. */
function weldedCorners({ positions }: Mesh, uvs: Float32Array): Uint32Array {
  const places = weldedVertices(positions)
  const keys = new Float32Array(places.length * 3)
  // Numbers of places are exact as float32 bits taken for integers.
  const words = new Uint32Array(keys.buffer)
  for (let v = 0; v < places.length; v++) {
    words[v * 3] = places[v]!
    keys[v * 3 + 1] = uvs[v * 2]! + 0
    keys[v * 3 + 2] = uvs[v * 2 + 1]! + 0
  }
  return firstEqual(words)
}

/** Edges by their two ends; the second triangle at an edge meets the first. */
class EdgeTable {
  private readonly keys: Float64Array
  private readonly first: Int32Array
  private readonly uses: Uint8Array
  private readonly mask: number

  constructor(most: number) {
    const size = 1 << Math.max(4, Math.ceil(Math.log2(most * 2 + 1)))
    this.keys = new Float64Array(size).fill(-1)
    this.first = new Int32Array(size).fill(-1)
    this.uses = new Uint8Array(size)
    this.mask = size - 1
  }

  /** The corner whose edge was there first, or −1. */
  meet(a: number, b: number, corner: number): number {
    const [low, high] = a < b ? [a, b] : [b, a]
    const key = low * 4294967296 + high
    let slot = (Math.imul(low, 0x9e3779b1) ^ Math.imul(high, 0x85ebca6b)) >>> 0
    slot = (slot ^ (slot >>> 15)) & this.mask
    while (this.keys[slot]! >= 0 && this.keys[slot] !== key) slot = (slot + 1) & this.mask
    const before = this.first[slot]!
    if (this.keys[slot]! < 0) {
      this.keys[slot] = key
      this.first[slot] = corner
    }
    if (this.uses[slot]! < 3) this.uses[slot]!++
    return before
  }

  /** Corners whose edges have no second triangle. */
  single(): number[] {
    const found: number[] = []
    for (let slot = 0; slot <= this.mask; slot++) if (this.uses[slot] === 1) found.push(this.first[slot]!)
    return found.sort((a, b) => a - b)
  }
}

function bordersOf(
  corners: readonly number[],
  of: Uint32Array,
  part: MeshPart,
  triangles: Uint32Array,
  uvs: Float32Array,
): Islands['borders'] {
  const points = new Float64Array(corners.length * 4)
  const island = new Uint32Array(corners.length)
  corners.forEach((corner, i) => {
    const t = Math.floor(corner / 3)
    const at = (part.from + t) * 3
    const ends = [triangles[at + (corner % 3)]!, triangles[at + ((corner + 1) % 3)]!]
    ends.forEach((vertex, k) => {
      points[i * 4 + k * 2] = uvs[vertex * 2]!
      points[i * 4 + k * 2 + 1] = uvs[vertex * 2 + 1]!
    })
    island[i] = of[t]!
  })
  return { points, island }
}
