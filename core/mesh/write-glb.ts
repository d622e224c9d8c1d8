import { Document, WebIO } from '@gltf-transform/core'
import { partVertices } from './part-vertices'
import type { Mesh } from './mesh'

/**
 * A mesh as binary glTF 2.0: a node for each part, a material for each name; normals, all UV sets of a part, colours. The triangles are
 * those of the mesh, in its order. Source: Khronos glTF 2.0.
 */
export async function writeGlb(mesh: Mesh): Promise<Uint8Array> {
  const document = new Document()
  document.getRoot().getAsset().generator = 'Amber Grist'
  const buffer = document.createBuffer()
  const scene = document.createScene()
  const materials = new Map<string, ReturnType<Document['createMaterial']>>()
  for (const part of mesh.parts) {
    const { vertices, triangles } = partVertices(mesh, part)
    const floats = (values: Float32Array, each: 2 | 3 | 4) => {
      const own = new Float32Array(vertices.length * each)
      vertices.forEach((vertex, i) => own.set(values.subarray(vertex * each, vertex * each + each), i * each))
      return document.createAccessor().setArray(own).setType(`VEC${each}`).setBuffer(buffer)
    }
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', floats(mesh.positions, 3))
      .setAttribute('NORMAL', floats(mesh.normals, 3))
      .setIndices(document.createAccessor().setArray(triangles).setType('SCALAR').setBuffer(buffer))
    for (let set = 0; set < part.uvSets; set++) primitive.setAttribute(`TEXCOORD_${set}`, floats(mesh.uvSets[set]!, 2))
    if (mesh.colours) primitive.setAttribute('COLOR_0', floats(mesh.colours, 4))
    if (part.material !== null) {
      let material = materials.get(part.material)
      if (!material) materials.set(part.material, (material = document.createMaterial(part.material)))
      primitive.setMaterial(material)
    }
    scene.addChild(document.createNode(part.name).setMesh(document.createMesh(part.name).addPrimitive(primitive)))
  }
  document.getRoot().setDefaultScene(scene)
  return new WebIO().writeBinary(document)
}
