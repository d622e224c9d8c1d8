import type { Material } from '@gltf-transform/core'
import { Document, WebIO } from '@gltf-transform/core'
import { KHRMaterialsEmissiveStrength, KHRMaterialsUnlit } from '@gltf-transform/extensions'
import type { Surface } from '../document/surface'
import { dressedVertices, gathered } from './part-geometry'
import { partVertices } from './part-vertices'
import type { Mesh } from './mesh'

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

export interface GlbOptions {
  /** What parts wear, by their numbers; of the UV set that it was made for. */
  readonly dresses?: ReadonlyMap<number, Dress>
  readonly uvSet?: number
}

/**
 * A mesh as binary glTF 2.0: a node for each part, a material for each name; normals, all UV sets of a part, colours. The triangles are
 * those of the mesh, in its order. A part that wears something has the tangents that its normals were baked in, and its maps in the
 * slots and colour spaces of the format. Source: Khronos glTF 2.0; KHR_materials_emissive_strength, KHR_materials_unlit.
 */
export async function writeGlb(mesh: Mesh, { dresses = new Map(), uvSet = 0 }: GlbOptions = {}): Promise<Uint8Array> {
  const document = new Document()
  document.getRoot().getAsset().generator = 'Amber Grist'
  const buffer = document.createBuffer()
  const scene = document.createScene()
  const materials = new Map<string, Material>()
  for (const [number, part] of mesh.parts.entries()) {
    const dress = dresses.get(number)
    const { vertices, triangles, tangents } = dress
      ? dressedVertices(mesh, part, uvSet)
      : { ...partVertices(mesh, part), tangents: null }
    const floats = (own: Float32Array, each: 2 | 3 | 4) =>
      document.createAccessor().setArray(own).setType(`VEC${each}`).setBuffer(buffer)
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', floats(gathered(vertices, mesh.positions, 3), 3))
      .setAttribute('NORMAL', floats(gathered(vertices, mesh.normals, 3), 3))
      .setIndices(document.createAccessor().setArray(triangles).setType('SCALAR').setBuffer(buffer))
    // Viewers that light by a normal map take them from the file only.
    if (tangents && dress?.normal) primitive.setAttribute('TANGENT', floats(tangents, 4))
    for (let set = 0; set < part.uvSets; set++)
      primitive.setAttribute(`TEXCOORD_${set}`, floats(gathered(vertices, mesh.uvSets[set]!, 2), 2))
    if (mesh.colours) primitive.setAttribute('COLOR_0', floats(gathered(vertices, mesh.colours, 4), 4))
    if (dress) primitive.setMaterial(materialOf(document, dress, uvSet))
    else if (part.material !== null) {
      let material = materials.get(part.material)
      if (!material) materials.set(part.material, (material = document.createMaterial(part.material)))
      primitive.setMaterial(material)
    }
    scene.addChild(document.createNode(part.name).setMesh(document.createMesh(part.name).addPrimitive(primitive)))
  }
  document.getRoot().setDefaultScene(scene)
  return new WebIO().registerExtensions([KHRMaterialsEmissiveStrength, KHRMaterialsUnlit]).writeBinary(document)
}

function materialOf(document: Document, dress: Dress, uvSet: number): Material {
  const made = document.createMaterial(dress.material).setMetallicFactor(1).setRoughnessFactor(1)
  const texture = (name: string, bytes: Uint8Array) =>
    document.createTexture(`${dress.material} ${name}`).setImage(bytes).setMimeType('image/png')
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
