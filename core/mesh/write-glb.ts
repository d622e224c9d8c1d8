import type { Accessor, Material, Texture } from '@gltf-transform/core'
import { Document, WebIO } from '@gltf-transform/core'
import { KHRMaterialsEmissiveStrength, KHRMaterialsUnlit } from '@gltf-transform/extensions'
import type { Surface } from '../document/surface'
import { dressedVertices } from './part-geometry'
import { gathered } from './gathered'
import { partVertices } from './part-vertices'
import type { Mesh } from './mesh'
import { gatheredTriangles, trianglesByTile } from './tile-of-part'

/** Maps of a part as a viewer takes them: PNG files, by what they are. Normals have Y up. */
export interface Dress {
  readonly material: string
  readonly colour?: Uint8Array
  readonly normal?: Uint8Array
  /** Occlusion, roughness and metallic in R, G and B. */
  readonly occlusionRoughMetal?: Uint8Array
  readonly emission?: Uint8Array
  readonly emissionStrength: number
  readonly surface: Surface
  /** Whether colour has an alpha that is below 1 somewhere. */
  readonly hasOpacity: boolean
}

/** What a part wears in a tile of its UVs, by the tile's UDIM number; all over where none is told. */
export interface PartDress {
  readonly udim?: number
  readonly dress: Dress
}

export interface GlbOptions {
  /** What parts wear, by their numbers; of the UV set that it was made for. */
  readonly dresses?: ReadonlyMap<number, readonly PartDress[]>
  readonly uvSet?: number
}

/**
 * A mesh as binary glTF 2.0: a node for each part, a material for each name; normals, all UV sets of a part, colours. The triangles are
 * those of the mesh, in its order, of parts that wear something in several tiles of UVs tile by tile. A part that wears something has the tangents that its normals were baked in, and its maps in the
 * slots and colour spaces of the format. Source: Khronos glTF 2.0; KHR_materials_emissive_strength, KHR_materials_unlit.
 */
export async function writeGlb(mesh: Mesh, { dresses = new Map(), uvSet = 0 }: GlbOptions = {}): Promise<Uint8Array> {
  const document = new Document()
  document.getRoot().getAsset().generator = 'Amber Grist'
  const buffer = document.createBuffer()
  const scene = document.createScene()
  const materials = new Map<string, Material>()
  const textures = new Textures(document)
  for (const [number, part] of mesh.parts.entries()) {
    const worn = dresses.get(number) ?? []
    const { vertices, triangles, tangents } =
      worn.length > 0 ? dressedVertices(mesh, part, uvSet) : { ...partVertices(mesh, part), tangents: null }
    const floats = (own: Float32Array, each: 2 | 3 | 4) =>
      document.createAccessor().setArray(own).setType(`VEC${each}`).setBuffer(buffer)
    const attributes = new Map<string, Accessor>([
      ['POSITION', floats(gathered(vertices, mesh.positions, 3), 3)],
      ['NORMAL', floats(gathered(vertices, mesh.normals, 3), 3)],
    ])
    // Viewers that light by a normal map take them from the file only.
    if (tangents && worn.some(({ dress }) => dress.normal)) attributes.set('TANGENT', floats(tangents, 4))
    const uvs = mesh.uvSets.slice(0, part.uvSets).map((set) => gathered(vertices, set, 2))
    uvs.forEach((own, set) => attributes.set(`TEXCOORD_${set}`, floats(own, 2)))
    if (mesh.colours) attributes.set('COLOR_0', floats(gathered(vertices, mesh.colours, 4), 4))
    const made = document.createMesh(part.name)
    for (const { triangles: own, dress } of piecesOf(triangles, uvs[uvSet], worn)) {
      const primitive = document
        .createPrimitive()
        .setIndices(document.createAccessor().setArray(own).setType('SCALAR').setBuffer(buffer))
      for (const [name, accessor] of attributes) primitive.setAttribute(name, accessor)
      if (dress) primitive.setMaterial(materialOf(document, dress, uvSet, textures))
      else if (part.material !== null) {
        let material = materials.get(part.material)
        if (!material) materials.set(part.material, (material = document.createMaterial(part.material)))
        primitive.setMaterial(material)
      }
      made.addPrimitive(primitive)
    }
    scene.addChild(document.createNode(part.name).setMesh(made))
  }
  document.getRoot().setDefaultScene(scene)
  return new WebIO().registerExtensions([KHRMaterialsEmissiveStrength, KHRMaterialsUnlit]).writeBinary(document)
}

interface Piece {
  readonly triangles: Uint32Array<ArrayBuffer>
  readonly dress: Dress | null
}

/** A part's triangles by what they wear: in one piece, or one for each tile of UVs. */
function piecesOf(
  triangles: Uint32Array<ArrayBuffer>,
  uvs: Float32Array | undefined,
  worn: readonly PartDress[],
): Piece[] {
  if (!uvs || worn.every(({ udim }) => udim === undefined)) return [{ triangles, dress: worn[0]?.dress ?? null }]
  return [...trianglesByTile(triangles, uvs)].map(([udim, places]) => ({
    triangles: gatheredTriangles(triangles, places),
    dress: worn.find((one) => one.udim === udim)?.dress ?? null,
  }))
}

/** Textures of a file: one for each picture, however many materials take it. */
class Textures {
  private readonly known = new Map<Uint8Array, Texture>()
  constructor(private readonly document: Document) {}

  get(name: string, bytes: Uint8Array): Texture {
    const known = this.known.get(bytes)
    if (known) return known
    const made = this.document.createTexture(name).setImage(bytes).setMimeType('image/png')
    this.known.set(bytes, made)
    return made
  }
}

function materialOf(document: Document, dress: Dress, uvSet: number, textures: Textures): Material {
  const made = document.createMaterial(dress.material).setMetallicFactor(1).setRoughnessFactor(1)
  const texture = (name: string, bytes: Uint8Array) => textures.get(`${dress.material} ${name}`, bytes)
  if (dress.colour) made.setBaseColorTexture(texture('colour', dress.colour))
  if (dress.normal) made.setNormalTexture(texture('normal', dress.normal))
  if (dress.occlusionRoughMetal) {
    const three = texture('occlusion, roughness, metallic', dress.occlusionRoughMetal)
    made.setMetallicRoughnessTexture(three).setOcclusionTexture(three)
  } else made.setMetallicFactor(0)
  if (dress.emission) {
    made.setEmissiveTexture(texture('emission', dress.emission)).setEmissiveFactor([1, 1, 1])
    if (dress.emissionStrength > 1) {
      const extension = document.createExtension(KHRMaterialsEmissiveStrength)
      const strength = extension.createEmissiveStrength().setEmissiveStrength(dress.emissionStrength)
      made.setExtension('KHR_materials_emissive_strength', strength)
    }
  }
  setSurface(document, made, dress)
  const infos = [
    made.getBaseColorTextureInfo(),
    made.getNormalTextureInfo(),
    made.getMetallicRoughnessTextureInfo(),
    made.getOcclusionTextureInfo(),
    made.getEmissiveTextureInfo(),
  ]
  for (const info of infos) info?.setTexCoord(uvSet)
  return made
}

/** The kind of surface, as far as glTF has it; what adds to its background is blended there, with a note in the extras. */
function setSurface(document: Document, made: Material, { surface, hasOpacity }: Dress): void {
  made.setDoubleSided(surface.sides === 'two')
  // An opaque surface is drawn faster than a cut-out that nothing is cut from.
  if (surface.opacity === 'cut-out' && hasOpacity) made.setAlphaMode('MASK').setAlphaCutoff(0.5)
  if (surface.opacity === 'blended' || surface.opacity === 'additive') made.setAlphaMode('BLEND')
  if (surface.opacity === 'additive') made.setExtras({ blending: 'additive' })
  if (surface.light === 'unlit')
    made.setExtension('KHR_materials_unlit', document.createExtension(KHRMaterialsUnlit).createUnlit())
}
