import head from '@pmndrs/assets/models/suzi.glb.js'
import { modelDecoders } from '#runtime/node/model-decoders'
import { uvAtlases } from '#runtime/node/uv-atlas'
import type { Mesh } from '../mesh'
import { readMesh } from '../read-mesh'
import { unwrap } from '../unwrap'

/** A head of 14 842 triangles from the package "@pmndrs/assets" (CC0), packed by Draco; unwrapped for a size, into 47 islands at 1024. */
export async function unwrappedHead(size: number): Promise<Mesh> {
  const bytes = Uint8Array.from(atob(head.slice(head.indexOf(',') + 1)), (letter) => letter.charCodeAt(0))
  const { mesh } = await readMesh('head.glb', bytes, { decoders: await modelDecoders() })
  return unwrap(mesh, mesh.parts, { size, spacing: 4, newAtlas: await uvAtlases() })
}
