import { GristError } from '../errors'
import type { Mesh, MeshPart } from './mesh'
import { gathered } from './gathered'
import { partVertices } from './part-vertices'

/** What is used of an atlas of charts: the package watlas, or what stands in for it. */
export interface ChartAtlas {
  addMesh(mesh: {
    vertexPositionData: Float32Array
    vertexCount: number
    vertexPositionStride: number
    vertexNormalData: Float32Array
    vertexNormalStride: number
    indexData: Uint32Array
    indexCount: number
  }): void
  addUvMesh(mesh: {
    vertexUvData: Float32Array
    vertexCount: number
    vertexStride: number
    indexData: Uint32Array
    indexCount: number
  }): void
  computeCharts(options: { fixWinding: boolean }): void
  packCharts(options: {
    padding: number
    resolution: number
    texelsPerUnit: number
    rotateCharts: boolean
    rotateChartsToAxis: boolean
    bilinear: boolean
  }): void
  getMesh(index: number): {
    readonly vertexCount: number
    readonly indexCount: number
    getVertex(index: number): {
      readonly atlasIndex: number
      readonly uv: readonly [number, number]
      readonly xref: number
    }
    getIndexArray(indices: Uint32Array): boolean
  }
  readonly width: number
  readonly height: number
  readonly atlasCount: number
  readonly texelsPerUnit: number
  delete(): void
}

export interface UnwrapRequest {
  /** Texels across and down, and how many there are between islands; half of that to the border. */
  readonly size: number
  readonly spacing: number
  readonly newAtlas: () => ChartAtlas
  readonly onProgress?: (ratio: number) => void
  readonly isCancelled?: () => boolean
}

/** Packings that are tried for the largest scale that fits. */
const TRIES = 14
/** Scales nearer than this share are one. */
const NEAR = 1.01

/**
 * New UVs for parts: charts by angle, each part alone in 0–1, at the largest scale at which all charts keep the spacing. They become the
 * first UV set; those that were there follow. Vertices are split along seams; triangles keep their order.
 * Charts are not turned while they are packed and none is mirrored. Throws mesh-invalid where they do not fit, cancelled.
 */
export async function unwrap(mesh: Mesh, parts: readonly MeshPart[], request: UnwrapRequest): Promise<Mesh> {
  return laidOut(mesh, parts, request, (part) => unwrapped(mesh, part, request))
}

/**
 * The islands that parts have, packed anew: each keeps its turn, and its shape and size beside
 * the others but for what rounding to whole texels takes. The UV set is replaced. Vertices
 * that islands share are split. Throws mesh-invalid where a part lacks the set or they do not fit, cancelled.
 */
export async function repack(
  mesh: Mesh,
  parts: readonly MeshPart[],
  request: UnwrapRequest & { readonly uvSet: number },
): Promise<Mesh> {
  return laidOut(mesh, parts, request, (part) => repacked(mesh, part, request))
}

/** A part: its vertices as those of the mesh, its triangles by their numbers among them, and its UV sets. */
interface Piece {
  readonly part: MeshPart
  readonly vertices: Uint32Array
  readonly triangles: Uint32Array
  readonly uvSets: readonly Float32Array[]
}

async function laidOut(
  mesh: Mesh,
  parts: readonly MeshPart[],
  { isCancelled, onProgress }: UnwrapRequest,
  lay: (part: MeshPart) => Piece,
): Promise<Mesh> {
  const pieces: Piece[] = []
  for (const [i, part] of mesh.parts.entries()) {
    if (isCancelled?.()) throw new GristError('cancelled', 'The work was cancelled.')
    pieces.push(parts.includes(part) ? lay(part) : asItIs(mesh, part))
    onProgress?.((i + 1) / mesh.parts.length)
    await new Promise((resolve) => setTimeout(resolve))
  }
  return joined(mesh, pieces)
}

function asItIs(mesh: Mesh, part: MeshPart): Piece {
  const { vertices, triangles } = partVertices(mesh, part)
  return { part, vertices, triangles, uvSets: setsOf(mesh, part, vertices) }
}

/** The UV sets that a part has, at some vertices of the mesh. */
const setsOf = (mesh: Mesh, part: MeshPart, vertices: Uint32Array): Float32Array[] =>
  mesh.uvSets.slice(0, part.uvSets).map((uvs) => gathered(vertices, uvs, 2))

function unwrapped(mesh: Mesh, part: MeshPart, request: UnwrapRequest): Piece {
  const { vertices, triangles } = partVertices(mesh, part)
  const packed = packedCharts(part, vertices, request, true, (atlas) =>
    atlas.addMesh({
      vertexPositionData: gathered(vertices, mesh.positions, 3),
      vertexCount: vertices.length,
      vertexPositionStride: 12,
      vertexNormalData: gathered(vertices, mesh.normals, 3),
      vertexNormalStride: 12,
      indexData: triangles,
      indexCount: triangles.length,
    }),
  )
  return {
    part,
    vertices: packed.vertices,
    triangles: packed.triangles,
    uvSets: [packed.uvs, ...setsOf(mesh, part, packed.vertices)],
  }
}

function repacked(mesh: Mesh, part: MeshPart, request: UnwrapRequest & { readonly uvSet: number }): Piece {
  if (request.uvSet >= part.uvSets)
    throw new GristError('mesh-invalid', 'It has no UVs in this set. Unwrap it first.', { part: part.name })
  const { vertices, triangles } = partVertices(mesh, part)
  // Islands keep their sizes beside each other; the package wants texels, and v growing upward.
  const uvs = gathered(vertices, mesh.uvSets[request.uvSet]!, 2).map(
    (v, i) => v * (i % 2 ? -request.size : request.size),
  )
  const packed = packedCharts(part, vertices, request, false, (atlas) =>
    atlas.addUvMesh({
      vertexUvData: uvs,
      vertexCount: vertices.length,
      vertexStride: 8,
      indexData: triangles,
      indexCount: triangles.length,
    }),
  )
  const uvSets = setsOf(mesh, part, packed.vertices)
  uvSets[request.uvSet] = packed.uvs
  return { part, vertices: packed.vertices, triangles: packed.triangles, uvSets }
}

/** Charts of what `add` gives, packed into 0–1; vertices as those of the mesh. */
function packedCharts(
  part: MeshPart,
  vertices: Uint32Array,
  { size, spacing, newAtlas }: UnwrapRequest,
  /** Whether charts may be turned so that their longer side lies along an axis. */
  turns: boolean,
  add: (atlas: ChartAtlas) => void,
): { vertices: Uint32Array; triangles: Uint32Array; uvs: Float32Array } {
  const atlas = newAtlas()
  try {
    add(atlas)
    atlas.computeCharts({ fixWinding: true })
    const border = Math.ceil(spacing / 2)
    packLargest(atlas, { room: size - 2 * border, spacing, part, turns })
    const result = atlas.getMesh(0)
    const triangles = new Uint32Array(result.indexCount)
    result.getIndexArray(triangles)
    const own = new Uint32Array(result.vertexCount)
    const uvs = new Float32Array(result.vertexCount * 2)
    for (let v = 0; v < result.vertexCount; v++) {
      const { uv, xref } = result.getVertex(v)
      own[v] = vertices[xref]!
      uvs[v * 2] = (uv[0] + border) / size
      // The package takes v as growing upward.
      uvs[v * 2 + 1] = 1 - (uv[1] + border) / size
    }
    return { vertices: own, triangles, uvs }
  } finally {
    atlas.delete()
  }
}

/** Packs charts at the largest scale at which one atlas of `room` texels holds them. */
function packLargest(
  atlas: ChartAtlas,
  { room, spacing, part, turns }: { room: number; spacing: number; part: MeshPart; turns: boolean },
): void {
  const pack = (texelsPerUnit: number): boolean => {
    atlas.packCharts({
      padding: spacing,
      resolution: Math.max(1, room),
      texelsPerUnit,
      rotateCharts: false,
      rotateChartsToAxis: turns,
      bilinear: true,
    })
    return atlas.atlasCount === 1 && atlas.width <= room && atlas.height <= room
  }
  if (room < 1)
    throw new GristError('mesh-invalid', `A spacing of ${spacing} texels leaves no room.`, { part: part.name })
  pack(0)
  let [fits, tooLarge] = [0, Infinity]
  let scale = atlas.texelsPerUnit
  for (let tries = 0; tries < TRIES && tooLarge > fits * NEAR; tries++) {
    if (pack(scale)) fits = scale
    else tooLarge = scale
    scale = fits === 0 ? scale * 0.75 : tooLarge === Infinity ? scale * 1.15 : Math.sqrt(fits * tooLarge)
  }
  if (fits === 0 || !pack(fits))
    throw new GristError(
      'mesh-invalid',
      `Its charts do not fit with ${spacing} texels between them; choose a larger size or less spacing.`,
      {
        part: part.name,
      },
    )
}

function joined(mesh: Mesh, pieces: readonly Piece[]): Mesh {
  const count = pieces.reduce((sum, { vertices }) => sum + vertices.length, 0)
  const all = new Uint32Array(count)
  const sets = Math.max(0, ...pieces.map(({ uvSets }) => uvSets.length))
  const uvSets = Array.from({ length: sets }, () => new Float32Array(count * 2))
  const triangles = new Uint32Array(pieces.reduce((sum, piece) => sum + piece.triangles.length, 0))
  const parts: MeshPart[] = []
  let [vertex, corner] = [0, 0]
  for (const { part, vertices, triangles: own, uvSets: sets } of pieces) {
    all.set(vertices, vertex)
    sets.forEach((uvs, set) => uvSets[set]!.set(uvs, vertex * 2))
    for (let i = 0; i < own.length; i++) triangles[corner + i] = own[i]! + vertex
    parts.push({ ...part, from: corner / 3, count: own.length / 3, uvSets: sets.length })
    vertex += vertices.length
    corner += own.length
  }
  return {
    ...mesh,
    positions: gathered(all, mesh.positions, 3),
    normals: gathered(all, mesh.normals, 3),
    colours: mesh.colours && gathered(all, mesh.colours, 4),
    uvSets,
    triangles,
    parts,
  }
}
