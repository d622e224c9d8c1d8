import { GristError } from '../errors'
import type { Mesh, MeshPart } from './mesh'
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
  computeCharts(options: { fixWinding: boolean }): void
  packCharts(options: {
    padding: number
    resolution: number
    texelsPerUnit: number
    rotateCharts: boolean
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
  const pieces: Piece[] = []
  for (const [i, part] of mesh.parts.entries()) {
    if (request.isCancelled?.()) throw new GristError('cancelled', 'The work was cancelled.')
    pieces.push(parts.includes(part) ? unwrapped(mesh, part, request) : asItIs(mesh, part))
    request.onProgress?.((i + 1) / mesh.parts.length)
    await new Promise((resolve) => setTimeout(resolve))
  }
  return joined(mesh, pieces)
}

/** A part: its vertices as those of the mesh, its triangles by their numbers, and new UVs. */
interface Piece {
  readonly part: MeshPart
  readonly vertices: Uint32Array
  readonly triangles: Uint32Array
  readonly uvs: Float32Array | null
}

const asItIs = (mesh: Mesh, part: MeshPart): Piece => ({ part, ...partVertices(mesh, part), uvs: null })

function unwrapped(mesh: Mesh, part: MeshPart, { size, spacing, newAtlas }: UnwrapRequest): Piece {
  const { vertices, triangles } = partVertices(mesh, part)
  const spread = (values: Float32Array): Float32Array => {
    const out = new Float32Array(vertices.length * 3)
    vertices.forEach((vertex, i) => out.set(values.subarray(vertex * 3, vertex * 3 + 3), i * 3))
    return out
  }
  const atlas = newAtlas()
  try {
    atlas.addMesh({
      vertexPositionData: spread(mesh.positions),
      vertexCount: vertices.length,
      vertexPositionStride: 12,
      vertexNormalData: spread(mesh.normals),
      vertexNormalStride: 12,
      indexData: triangles,
      indexCount: triangles.length,
    })
    atlas.computeCharts({ fixWinding: true })
    const border = Math.ceil(spacing / 2)
    packLargest(atlas, size - 2 * border, spacing, part)
    const result = atlas.getMesh(0)
    const indices = new Uint32Array(result.indexCount)
    result.getIndexArray(indices)
    const own = new Uint32Array(result.vertexCount)
    const uvs = new Float32Array(result.vertexCount * 2)
    for (let v = 0; v < result.vertexCount; v++) {
      const { uv, xref } = result.getVertex(v)
      own[v] = vertices[xref]!
      uvs[v * 2] = (uv[0] + border) / size
      // The package takes v as growing upward.
      uvs[v * 2 + 1] = 1 - (uv[1] + border) / size
    }
    return { part, vertices: own, triangles: indices, uvs }
  } finally {
    atlas.delete()
  }
}

/** Packs charts at the largest scale at which one atlas of `room` texels holds them. */
function packLargest(atlas: ChartAtlas, room: number, spacing: number, part: MeshPart): void {
  const pack = (texelsPerUnit: number): boolean => {
    atlas.packCharts({
      padding: spacing,
      resolution: Math.max(1, room),
      texelsPerUnit,
      rotateCharts: false,
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
  const gathered = (values: Float32Array, each: number): Float32Array => {
    const out = new Float32Array(count * each)
    let at = 0
    for (const { vertices } of pieces)
      for (const vertex of vertices) {
        out.set(values.subarray(vertex * each, vertex * each + each), at)
        at += each
      }
    return out
  }
  const sets = Math.max(0, ...pieces.map(({ part, uvs }) => part.uvSets + (uvs ? 1 : 0)))
  const uvSets = Array.from({ length: sets }, () => new Float32Array(count * 2))
  const triangles = new Uint32Array(pieces.reduce((sum, piece) => sum + piece.triangles.length, 0))
  const parts: MeshPart[] = []
  let [vertex, corner] = [0, 0]
  for (const { part, vertices, triangles: own, uvs } of pieces) {
    if (uvs) uvSets[0]!.set(uvs, vertex * 2)
    const shift = uvs ? 1 : 0
    for (let set = 0; set < part.uvSets; set++)
      vertices.forEach((old, i) =>
        uvSets[set + shift]!.set(mesh.uvSets[set]!.subarray(old * 2, old * 2 + 2), (vertex + i) * 2),
      )
    for (let i = 0; i < own.length; i++) triangles[corner + i] = own[i]! + vertex
    parts.push({ ...part, from: corner / 3, count: own.length / 3, uvSets: part.uvSets + shift })
    vertex += vertices.length
    corner += own.length
  }
  return {
    ...mesh,
    positions: gathered(mesh.positions, 3),
    normals: gathered(mesh.normals, 3),
    colours: mesh.colours && gathered(mesh.colours, 4),
    uvSets,
    triangles,
    parts,
  }
}
