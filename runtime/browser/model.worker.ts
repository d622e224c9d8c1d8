import { expose, transfer } from 'comlink'
import { gatheredTriangles, trianglesByTile } from '#core/mesh/tile-of-part'
import type { Mesh, MeshPart } from '#core/mesh/mesh'
import { unpackMesh } from '#core/mesh/packed-mesh'
import { dressedVertices } from '#core/mesh/part-geometry'
import type { IdKind } from '#core/picked-ids'
import type { PartPoint } from '#core/mesh/part-ids'
import { PartIds } from '#core/mesh/part-ids'
import type { TileCollision } from '#core/mesh/tile-owners'
import { tileCollisions } from '#core/mesh/tile-owners'
import { gathered } from '#core/mesh/gathered'
import { partVertices } from '#core/mesh/part-vertices'
import type { PaintRequest } from './layout-painter'
import { LayoutPainter } from './layout-painter'

/** A part as a renderer draws it: vertices split where their tangents differ, if it has any. */
export interface PartGeometry {
  readonly name: string
  readonly positions: Float32Array
  readonly normals: Float32Array
  /** Of the set that was asked for; null where it has none. */
  readonly uvs: Float32Array | null
  /** All UV sets that it has, that one too. */
  readonly sets: readonly Float32Array[]
  /** Four a vertex; null where it has no UVs, or none were asked for. */
  readonly tangents: Float32Array | null
  readonly indices: Uint32Array
  /** Stretches of indices by the tile of UVs that they lie in. */
  readonly tiles: readonly { readonly udim: number; readonly start: number; readonly count: number }[]
  /** Which triangle of the part each is, from its first. */
  readonly order: Uint32Array
}

/** Addresses of pictures by UDIM number. */
type Addresses = readonly (readonly [number, string])[]

/** What pages ask the model's worker for. Addresses are those of meshes as they are kept. */
export interface ModelCalls {
  geometryOf(address: string, uvSet: number, withTangents: boolean): Promise<PartGeometry[]>
  /** Paints a layout and gives it as a picture; `pictures` are addresses by UDIM number. */
  paint(
    address: string,
    part: number,
    uvSet: number,
    request: Omit<PaintRequest, 'pictures' | 'missed'> & { readonly pictures: Addresses; readonly missed: Addresses },
  ): Promise<ImageBitmap>
  /** The numbers of a kind of ID on a part, the smallest first. */
  idsOf(address: string, part: number, uvSet: number, kind: IdKind): Promise<number[]>
  /** The number at the middle of each of its triangles. */
  idsByTriangle(address: string, part: number, uvSet: number, kind: IdKind): Promise<Uint32Array>
  /** The number at a place of it. */
  idAt(address: string, part: number, uvSet: number, kind: IdKind, point: PartPoint): Promise<number>
  /** Which of some parts lie over one another in a tile; absent where 0–1 is the only one. */
  collisionsOf(
    address: string,
    uvSet: number,
    udim: number | undefined,
    parts: readonly number[],
  ): Promise<TileCollision[]>
  /** The box around what a problem is about, in UVs: left, top, right, bottom; null where there is nothing. */
  boxOf(address: string, part: number, uvSet: number): Promise<[number, number, number, number] | null>
}

/** Meshes and painters that are kept. */
const KEPT = 4
const meshes = new Map<string, Promise<Mesh>>()
const painters = new Map<string, LayoutPainter>()
const bitmaps = new Map<string, Promise<ImageBitmap>>()

function kept<V>(map: Map<string, V>, key: string, make: () => V, most = KEPT): V {
  const known = map.get(key)
  if (known !== undefined) return known
  const made = make()
  if (map.size >= most) map.delete(map.keys().next().value!)
  map.set(key, made)
  return made
}

/** The same of what is on its way; what fails is asked for again. */
function keptPromise<V>(map: Map<string, Promise<V>>, key: string, most: number, make: () => Promise<V>): Promise<V> {
  const found = kept(map, key, make, most)
  found.catch(() => map.get(key) === found && map.delete(key))
  return found
}

const meshAt = (address: string): Promise<Mesh> =>
  keptPromise(meshes, address, KEPT, async () => {
    const response = await fetch(address)
    if (!response.ok) throw new Error('The model cannot be read.')
    return unpackMesh(new Uint8Array(await response.arrayBuffer()))
  })

async function painterOf(address: string, part: number, uvSet: number): Promise<LayoutPainter> {
  const mesh = await meshAt(address)
  return kept(painters, `${address} ${part} ${uvSet}`, () => new LayoutPainter(mesh, mesh.parts[part]!, uvSet))
}

const ids = new Map<string, PartIds>()
async function idsAt(address: string, part: number, uvSet: number): Promise<PartIds> {
  const mesh = await meshAt(address)
  return kept(ids, `${address} ${part} ${uvSet}`, () => new PartIds(mesh, part, uvSet))
}

const bitmapAt = (address: string): Promise<ImageBitmap> =>
  keptPromise(bitmaps, address, 32, async () => createImageBitmap(await (await fetch(address)).blob()))

async function bitmapsAt(addresses: Addresses): Promise<Map<number, ImageBitmap>> {
  const found = new Map<number, ImageBitmap>()
  for (const [udim, address] of addresses) found.set(udim, await bitmapAt(address))
  return found
}

function geometryOfPart(mesh: Mesh, part: MeshPart, uvSet: number, withTangents: boolean): PartGeometry {
  const { vertices, tangents, triangles } = withTangents
    ? dressedVertices(mesh, part, uvSet)
    : { ...partVertices(mesh, part), tangents: null }
  const sets = mesh.uvSets.slice(0, part.uvSets).map((set) => gathered(vertices, set, 2))
  const own = sets[uvSet] ?? null
  return {
    name: part.name,
    positions: gathered(vertices, mesh.positions, 3),
    normals: gathered(vertices, mesh.normals, 3),
    uvs: own,
    sets,
    tangents,
    ...byTiles(triangles, own),
  }
}

/** Triangles put together by the tile of UVs that their middle lies in. */
function byTiles(triangles: Uint32Array, uvs: Float32Array | null): Pick<PartGeometry, 'indices' | 'tiles' | 'order'> {
  const order = new Uint32Array(triangles.length / 3)
  if (!uvs) {
    for (let t = 0; t < order.length; t++) order[t] = t
    return { indices: triangles, tiles: [{ udim: 1001, start: 0, count: triangles.length }], order }
  }
  const indices = new Uint32Array(triangles.length)
  const tiles: { udim: number; start: number; count: number }[] = []
  let at = 0
  for (const [udim, list] of trianglesByTile(triangles, uvs)) {
    indices.set(gatheredTriangles(triangles, list), at)
    order.set(list, at / 3)
    tiles.push({ udim, start: at, count: list.length * 3 })
    at += list.length * 3
  }
  return { indices, tiles, order }
}

const calls: ModelCalls = {
  geometryOf: async (address, uvSet, withTangents) => {
    const mesh = await meshAt(address)
    const parts = mesh.parts.map((part) => geometryOfPart(mesh, part, uvSet, withTangents))
    const buffers = parts.flatMap(({ positions, normals, sets, tangents, indices, order }) =>
      [positions, normals, ...sets, tangents, indices, order].flatMap((one) => (one ? [one.buffer] : [])),
    )
    return transfer(parts, buffers)
  },
  paint: async (address, part, uvSet, request) => {
    const painter = await painterOf(address, part, uvSet)
    const [pictures, missed] = [await bitmapsAt(request.pictures), await bitmapsAt(request.missed)]
    const canvas = new OffscreenCanvas(request.width, request.height)
    painter.paint(canvas.getContext('2d')!, { ...request, pictures, missed })
    const bitmap = canvas.transferToImageBitmap()
    return transfer(bitmap, [bitmap])
  },
  idsOf: async (address, part, uvSet, kind) => (await idsAt(address, part, uvSet)).all(kind),
  idsByTriangle: async (address, part, uvSet, kind) => (await idsAt(address, part, uvSet)).byTriangle(kind),
  idAt: async (address, part, uvSet, kind, point) => (await idsAt(address, part, uvSet)).at(kind, point),
  collisionsOf: async (address, uvSet, udim, parts) =>
    tileCollisions({ mesh: await meshAt(address), uvSet, ...(udim === undefined ? {} : { udim }) }, parts),
  boxOf: async (address, part, uvSet) => {
    const { layout } = await painterOf(address, part, uvSet)
    const { points } = layout.islands.borders
    if (points.length === 0) return null
    let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
    for (let i = 0; i < points.length; i += 2) {
      left = Math.min(left, points[i]!)
      right = Math.max(right, points[i]!)
      top = Math.min(top, points[i + 1]!)
      bottom = Math.max(bottom, points[i + 1]!)
    }
    return [left, top, right, bottom]
  },
}
expose(calls)
