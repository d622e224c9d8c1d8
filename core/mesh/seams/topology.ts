import type { Mesh, MeshPart } from '../mesh'
import { weldedVertices } from '../welded'

/** What lies at an edge: nothing, the same island, or another place of the layout. */
export const OPEN = 0
export const INNER = 1
export const SEAM = 2

/** Triangles of less area in UV than this have none. */
const COLLAPSED = 1e-14

/**
 * How the triangles of a part hang together. Half-edges have the number of the corner they begin at, three a triangle.
 * Shape: `uvs` two and `positions` three numbers a corner, UV with v downward.
 */
export interface Topology {
  readonly triangles: number
  readonly uvs: Float64Array
  readonly positions: Float64Array
  /** Twice the signed area in UV of each triangle. */
  readonly area: Float64Array
  /** The half-edge on the other side; −1 at an open border. */
  readonly twin: Int32Array
  readonly kind: Uint8Array
  /** 1 where the twin begins at the same place instead of at the other end: one of the two triangles is turned over. */
  readonly flipped: Uint8Array
  /** The island of each triangle; −1 of those without area in UV. */
  readonly island: Int32Array
  /** Triangles by island. */
  readonly islands: readonly (readonly number[])[]
}

/** The half-edge after this one in its triangle. */
export const nextEdge = (edge: number): number => (edge % 3 === 2 ? edge - 2 : edge + 1)

/** Finds what lies at each edge of a part. Corners are at one place where their positions are, bit for bit. */
export function topologyOf(mesh: Mesh, part: MeshPart, uvSet: number): Topology {
  const corners = part.count * 3
  const vertices = mesh.triangles.subarray(part.from * 3, part.from * 3 + corners)
  const welded = weldedVertices(mesh.positions)
  const set = mesh.uvSets[uvSet]!
  const uvs = new Float64Array(corners * 2)
  const positions = new Float64Array(corners * 3)
  vertices.forEach((vertex, i) => {
    for (let k = 0; k < 2; k++) uvs[i * 2 + k] = set[vertex * 2 + k]!
    for (let k = 0; k < 3; k++) positions[i * 3 + k] = mesh.positions[vertex * 3 + k]!
  })
  const area = Float64Array.from({ length: part.count }, (_, t) => {
    const at = (corner: number, axis: number): number => uvs[(t * 3 + corner) * 2 + axis]! - uvs[t * 6 + axis]!
    return at(1, 0) * at(2, 1) - at(2, 0) * at(1, 1)
  })
  const place = (edge: number): number => welded[vertices[edge]!]!
  const pairs = pairEdges(place, uvs, area)
  return { triangles: part.count, uvs, positions, area, ...pairs, ...islandsOf(part.count, area, pairs) }
}

type Pairs = Pick<Topology, 'twin' | 'kind' | 'flipped'>

function pairEdges(place: (edge: number) => number, uvs: Float64Array, area: Float64Array): Pairs {
  const count = uvs.length / 2
  const pairs: Pairs = {
    twin: new Int32Array(count).fill(-1),
    kind: new Uint8Array(count),
    flipped: new Uint8Array(count),
  }
  const isFlat = (edge: number): boolean => Math.abs(area[Math.floor(edge / 3)]!) < 2 * COLLAPSED
  const groups = new Map<number, number[]>()
  for (let edge = 0; edge < count; edge++) {
    const [a, b] = [place(edge), place(nextEdge(edge))]
    if (a === b || isFlat(edge)) continue
    const key = Math.min(a, b) * 4294967296 + Math.max(a, b)
    const group = groups.get(key)
    if (group) group.push(edge)
    else groups.set(key, [edge])
  }
  const join = (a: number, b: number, kind: number): void => {
    pairs.twin[a] = b
    pairs.twin[b] = a
    pairs.kind[a] = pairs.kind[b] = kind
    pairs.flipped[a] = pairs.flipped[b] = Number(place(a) === place(b))
  }
  const sameUv = (a: number, b: number): boolean => uvs[a * 2] === uvs[b * 2] && uvs[a * 2 + 1] === uvs[b * 2 + 1]
  const ends = (edge: number): [number, number] =>
    place(edge) < place(nextEdge(edge)) ? [edge, nextEdge(edge)] : [nextEdge(edge), edge]
  const hangsTogether = (a: number, b: number): boolean => {
    const [[a0, a1], [b0, b1]] = [ends(a), ends(b)]
    // A mirrored copy over the same UVs turns the other way: that is a seam.
    return sameUv(a0, b0) && sameUv(a1, b1) && area[Math.floor(a / 3)]! * area[Math.floor(b / 3)]! > 0
  }
  for (const group of groups.values()) {
    for (const [i, a] of group.entries())
      for (const b of group.slice(i + 1))
        if (pairs.twin[a]! < 0 && pairs.twin[b]! < 0 && hangsTogether(a, b)) join(a, b, INNER)
    const rest = group.filter((edge) => pairs.twin[edge]! < 0)
    // Where more than two surfaces meet, none goes on.
    if (rest.length === 2) join(rest[0]!, rest[1]!, SEAM)
  }
  return pairs
}

function islandsOf(triangles: number, area: Float64Array, { twin, kind }: Pairs): Pick<Topology, 'island' | 'islands'> {
  const parents = Int32Array.from({ length: triangles }, (_, i) => i)
  const root = (t: number): number => {
    while (parents[t] !== t) t = parents[t] = parents[parents[t]!]!
    return t
  }
  for (let edge = 0; edge < twin.length; edge++) {
    if (kind[edge] !== INNER) continue
    const [a, b] = [root(Math.floor(edge / 3)), root(Math.floor(twin[edge]! / 3))]
    if (a !== b) parents[Math.max(a, b)] = Math.min(a, b)
  }
  const island = new Int32Array(triangles).fill(-1)
  const islands: number[][] = []
  const known = new Map<number, number>()
  for (let t = 0; t < triangles; t++) {
    if (Math.abs(area[t]!) < 2 * COLLAPSED) continue
    const at = root(t)
    let number = known.get(at)
    if (number === undefined) known.set(at, (number = islands.push([]) - 1))
    island[t] = number
    islands[number]!.push(t)
  }
  return { island, islands }
}
