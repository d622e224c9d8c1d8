import type { Accessor, Document, Node, Primitive } from '@gltf-transform/core'
import { Primitive as PrimitiveModes, WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS } from '@gltf-transform/extensions'
import type { Transform as TextureTransform } from '@gltf-transform/extensions'
import { cosTurns, sinTurns } from '../../elementary'
import { GristError } from '../../errors'
import { LIMITS } from '../../limits'
import type { MeshPart, RawMesh } from '../mesh'

/** Decoders of compressed files, and other files that a .gltf names. */
export interface GltfHost {
  /** By the names that gltf-transform gives them: "draco3d.decoder", "meshopt.decoder". */
  readonly decoders: Readonly<Record<string, unknown>>
  /** Bytes of a file beside the .gltf; null where it is not there. Absent for GLB. */
  readonly file?: (name: string) => Uint8Array | null
}

/** A texture of a material of the file. */
export interface MaterialMap {
  readonly material: string
  /** The slot of glTF 2.0, as "baseColorTexture". */
  readonly slot: string
  readonly mime: string
  readonly bytes: Uint8Array
}

/**
 * Reads glTF 2.0, binary or JSON: every mesh of the default scene with its transforms applied, a part for each primitive, two UV
 * sets and more, vertex colours. Draco and meshopt compression, quantised attributes and texture transforms (applied to the UVs that
 * the base colour reads) are understood; skins and morph targets stand as they are modelled, and a note says so.
 * Throws mesh-invalid, file-unsupported. Source: Khronos glTF 2.0 and its ratified extensions.
 */
export async function readGltf(bytes: Uint8Array, host: GltfHost): Promise<{ raw: RawMesh; textures: MaterialMap[] }> {
  const document = await parsed(bytes, host)
  const root = document.getRoot()
  const scene = root.getDefaultScene() ?? root.listScenes()[0]
  const gathered = new Gathered()
  if (scene) for (const child of scene.listChildren()) gathered.walk(child)
  else for (const node of root.listNodes()) if (!node.getParentNode()) gathered.walk(node)
  return { raw: gathered.finish(), textures: mapsOf(document) }
}

const MAGIC = 0x46546c67

async function parsed(bytes: Uint8Array, host: GltfHost): Promise<Document> {
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({ ...host.decoders })
  try {
    const isBinary =
      bytes.length >= 4 && new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getUint32(0, true) === MAGIC
    if (isBinary) return await io.readBinary(bytes)
    const json = JSON.parse(new TextDecoder().decode(bytes)) as { buffers?: Uri[]; images?: Uri[] }
    const resources: Record<string, Uint8Array<ArrayBuffer>> = {}
    for (const { uri } of [...(json.buffers ?? []), ...(json.images ?? [])]) {
      if (uri === undefined || uri.startsWith('data:')) continue
      const found = host.file?.(decodeURIComponent(uri)) ?? null
      if (!found) throw new GristError('mesh-invalid', `The file names "${uri.slice(0, 60)}", which is not beside it.`)
      resources[uri] = new Uint8Array(found)
    }
    return await io.readJSON({ json: json as never, resources })
  } catch (error) {
    if (error instanceof GristError) throw error
    const message = error instanceof Error ? error.message : String(error)
    throw new GristError('mesh-invalid', `This is no glTF file that can be read: ${message.slice(0, 200)}`)
  }
}

interface Uri {
  readonly uri?: string
}

/** What primitives come to, put one after the other. */
class Gathered {
  private readonly parts: MeshPart[] = []
  private readonly pieces: Piece[] = []
  private readonly notes = new Set<string>()
  private vertices = 0
  private triangles = 0

  walk(node: Node): void {
    // Without recursion: files may be as deep as they like.
    const open = [node]
    const seen = new Set<Node>()
    for (let one = open.pop(); one; one = open.pop()) {
      if (seen.has(one)) continue
      seen.add(one)
      this.add(one)
      open.push(...one.listChildren().reverse())
    }
  }

  private add(node: Node): void {
    const mesh = node.getMesh()
    if (!mesh) return
    if (node.getSkin()) this.notes.add('Skins are left out: the model stands as it is modelled.')
    const primitives = mesh.listPrimitives()
    for (const primitive of primitives) {
      if (primitive.listTargets().length > 0) this.notes.add('Morph targets are left out.')
      const indices = trianglesOf(primitive)
      if (!indices) {
        this.notes.add('Points and lines are left out.')
        continue
      }
      const piece = pieceOf(primitive, node.getWorldMatrix(), indices)
      const material = primitive.getMaterial()?.getName() || null
      const own = node.getName() || mesh.getName() || 'part'
      const name = primitives.length > 1 ? `${own} / ${material ?? primitives.indexOf(primitive) + 1}` : own
      this.parts.push({ name, material, from: this.triangles, count: indices.length / 3, uvSets: piece.uvSets.length })
      this.pieces.push(piece)
      this.vertices += piece.positions.length / 3
      this.triangles += indices.length / 3
      const { triangles, vertices, parts } = LIMITS.model
      if (this.triangles > triangles || this.vertices > vertices || this.parts.length > parts)
        throw new GristError(
          'mesh-invalid',
          `Expected at most ${triangles} triangles, ${vertices} vertices and ${parts} parts.`,
        )
    }
  }

  finish(): RawMesh {
    const { pieces, vertices } = this
    const sets = Math.max(0, ...pieces.map(({ uvSets }) => uvSets.length))
    const positions = new Float32Array(vertices * 3)
    const normals = new Float32Array(vertices * 3)
    const uvSets = Array.from({ length: sets }, () => new Float32Array(vertices * 2))
    const colours = pieces.some((piece) => piece.colours) ? new Float32Array(vertices * 4).fill(1) : null
    const triangles = new Uint32Array(this.triangles * 3)
    let vertex = 0
    let corner = 0
    for (const piece of pieces) {
      positions.set(piece.positions, vertex * 3)
      if (piece.normals) normals.set(piece.normals, vertex * 3)
      piece.uvSets.forEach((uvs, set) => uvSets[set]!.set(uvs, vertex * 2))
      if (piece.colours) colours!.set(piece.colours, vertex * 4)
      for (let i = 0; i < piece.triangles.length; i++) triangles[corner + i] = piece.triangles[i]! + vertex
      vertex += piece.positions.length / 3
      corner += piece.triangles.length
    }
    // glTF 2.0, 3.7.2.1: where normals are not specified, they are those of the faces.
    return { positions, normals, uvSets, colours, triangles, parts: this.parts, notes: [...this.notes], flat: true }
  }
}

interface Piece {
  readonly positions: Float32Array
  readonly normals: Float32Array | null
  readonly uvSets: readonly Float32Array[]
  readonly colours: Float32Array | null
  readonly triangles: Uint32Array
}

/** Vertices of triangles, three each; null for points and lines. Strips and fans are written out. Source: glTF 2.0, 3.7.2.1. */
function trianglesOf(primitive: Primitive): Uint32Array | null {
  const { Mode } = PrimitiveModes
  const mode = primitive.getMode()
  const position = primitive.getAttribute('POSITION')
  if (!position || mode < Mode.TRIANGLES!) return null
  const given = primitive.getIndices()?.getArray()
  const indices = given ?? Uint32Array.from({ length: position.getCount() }, (_, i) => i)
  const count = mode === Mode.TRIANGLES ? Math.floor(indices.length / 3) : Math.max(0, indices.length - 2)
  const out = new Uint32Array(count * 3)
  for (let t = 0; t < count; t++) {
    const corners =
      mode === Mode.TRIANGLES
        ? [t * 3, t * 3 + 1, t * 3 + 2]
        : mode === Mode.TRIANGLE_FAN
          ? [t + 1, t + 2, 0]
          : [t, t + 1 + (t % 2), t + 2 - (t % 2)]
    corners.forEach((at, k) => (out[t * 3 + k] = indices[at]!))
  }
  const vertices = position.getCount()
  const wrong = out.find((vertex) => vertex >= vertices)
  if (wrong !== undefined)
    throw new GristError('mesh-invalid', `A triangle names vertex ${wrong}, but there are ${vertices}.`)
  return out
}

function pieceOf(primitive: Primitive, matrix: readonly number[], triangles: Uint32Array): Piece {
  const positions = floatsOf(primitive.getAttribute('POSITION')!, 3)
  const given = primitive.getAttribute('NORMAL')
  const normals = given && given.getCount() * 3 === positions.length ? floatsOf(given, 3) : null
  transformPoints(positions, matrix)
  if (normals) transformNormals(normals, matrix)
  // A mirrored node turns its triangles round.
  if (determinant(matrix) < 0)
    for (let i = 0; i < triangles.length; i += 3)
      [triangles[i + 1], triangles[i + 2]] = [triangles[i + 2]!, triangles[i + 1]!]
  const uvSets: Float32Array[] = []
  for (let set = 0; ; set++) {
    const uvs = primitive.getAttribute(`TEXCOORD_${set}`)
    if (!uvs || uvs.getCount() * 3 !== positions.length) break
    uvSets.push(floatsOf(uvs, 2))
  }
  applyTextureTransform(primitive, uvSets)
  const colour = primitive.getAttribute('COLOR_0')
  const colours = colour && colour.getCount() * 3 === positions.length ? coloursOf(colour) : null
  return { positions, normals, uvSets, colours, triangles }
}

function floatsOf(accessor: Accessor, each: number): Float32Array {
  const count = accessor.getCount()
  const out = new Float32Array(count * each)
  const element: number[] = []
  for (let i = 0; i < count; i++) {
    accessor.getElement(i, element)
    for (let k = 0; k < each; k++) out[i * each + k] = element[k] ?? 0
  }
  return out
}

function coloursOf(accessor: Accessor): Float32Array {
  const out = new Float32Array(accessor.getCount() * 4).fill(1)
  const element: number[] = []
  for (let i = 0; i < accessor.getCount(); i++) {
    accessor.getElement(i, element)
    element.forEach((v, k) => (out[i * 4 + k] = v))
  }
  return out
}

/** Column-major 4 × 4 as glTF has it. */
function transformPoints(points: Float32Array, m: readonly number[]): void {
  for (let i = 0; i < points.length; i += 3) {
    const [x, y, z] = [points[i]!, points[i + 1]!, points[i + 2]!]
    for (let k = 0; k < 3; k++) points[i + k] = m[k]! * x + m[4 + k]! * y + m[8 + k]! * z + m[12 + k]!
  }
}

/** By the cofactors of the upper 3 × 3, which are its inverse transposed times its determinant. */
function transformNormals(normals: Float32Array, m: readonly number[]): void {
  const at = (row: number, column: number): number => m[column * 4 + row]!
  const cofactor = (r: number, c: number): number => {
    const [r1, r2, c1, c2] = [(r + 1) % 3, (r + 2) % 3, (c + 1) % 3, (c + 2) % 3]
    return at(r1, c1) * at(r2, c2) - at(r1, c2) * at(r2, c1)
  }
  const sign = determinant(m) < 0 ? -1 : 1
  const c = [0, 1, 2].map((row) => [0, 1, 2].map((column) => cofactor(row, column) * sign))
  for (let i = 0; i < normals.length; i += 3) {
    const v = [normals[i]!, normals[i + 1]!, normals[i + 2]!]
    for (let k = 0; k < 3; k++) normals[i + k] = c[k]![0]! * v[0]! + c[k]![1]! * v[1]! + c[k]![2]! * v[2]!
  }
}

const determinant = (m: readonly number[]): number =>
  m[0]! * (m[5]! * m[10]! - m[6]! * m[9]!) -
  m[4]! * (m[1]! * m[10]! - m[2]! * m[9]!) +
  m[8]! * (m[1]! * m[6]! - m[2]! * m[5]!)

/** The transform of the base colour's texture, or the first that a material has, on the UV set that it reads. */
function applyTextureTransform(primitive: Primitive, uvSets: readonly Float32Array[]): void {
  const material = primitive.getMaterial()
  if (!material) return
  const infos = [
    material.getBaseColorTextureInfo(),
    material.getNormalTextureInfo(),
    material.getMetallicRoughnessTextureInfo(),
    material.getOcclusionTextureInfo(),
    material.getEmissiveTextureInfo(),
  ]
  const info = infos.find((one) => one?.getExtension('KHR_texture_transform'))
  const transform = info?.getExtension<TextureTransform>('KHR_texture_transform')
  const uvs = info && uvSets[transform!.getTexCoord() ?? info.getTexCoord()]
  if (!transform || !uvs) return
  const [offset, scale, angle] = [transform.getOffset(), transform.getScale(), transform.getRotation()]
  const turns = angle / (2 * Math.PI)
  const [cos, sin] = [cosTurns(turns), sinTurns(turns)]
  for (let i = 0; i < uvs.length; i += 2) {
    const [u, v] = [uvs[i]! * scale[0]!, uvs[i + 1]! * scale[1]!]
    uvs[i] = u * cos + v * sin + offset[0]!
    uvs[i + 1] = v * cos - u * sin + offset[1]!
  }
}

function mapsOf(document: Document): MaterialMap[] {
  return document
    .getRoot()
    .listMaterials()
    .flatMap((material, i) => {
      const name = material.getName() || `material ${i + 1}`
      const slots = {
        baseColorTexture: material.getBaseColorTexture(),
        metallicRoughnessTexture: material.getMetallicRoughnessTexture(),
        normalTexture: material.getNormalTexture(),
        occlusionTexture: material.getOcclusionTexture(),
        emissiveTexture: material.getEmissiveTexture(),
      }
      return Object.entries(slots).flatMap(([slot, texture]): MaterialMap[] => {
        const bytes = texture?.getImage()
        return bytes ? [{ material: name, slot, mime: texture!.getMimeType(), bytes }] : []
      })
    })
}
