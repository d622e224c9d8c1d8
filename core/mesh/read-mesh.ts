import { GristError } from '../errors'
import { LIMITS } from '../limits'
import type { GltfHost, MaterialMap } from './formats/gltf'
import { readGltf } from './formats/gltf'
import { readObj } from './formats/obj'
import { readPly } from './formats/ply'
import { readStl } from './formats/stl'
import type { Mesh, RawMesh } from './mesh'
import { finishMesh } from './mesh'

/** A model as it was read, with the textures of its own materials. */
export interface ReadModel {
  readonly mesh: Mesh
  readonly textures: readonly MaterialMap[]
}

/** Endings of files that are read. */
export const MODEL_FILES = ['glb', 'gltf', 'obj', 'ply', 'stl'] as const
type Kind = (typeof MODEL_FILES)[number]

const READERS: Record<Kind, (bytes: Uint8Array, host: GltfHost) => Promise<{ raw: RawMesh; textures: MaterialMap[] }>> =
  {
    glb: readGltf,
    gltf: readGltf,
    obj: async (bytes) => ({ raw: readObj(new TextDecoder().decode(bytes)), textures: [] }),
    ply: async (bytes) => ({ raw: readPly(bytes), textures: [] }),
    stl: async (bytes) => ({ raw: readStl(bytes), textures: [] }),
  }

/**
 * Reads a model by the ending of its name, checks and repairs it. `metresPerUnit` scales files that tell no unit (all but glTF).
 * Throws file-unsupported, mesh-invalid, naming the file and the place in it.
 */
export async function readMesh(
  name: string,
  bytes: Uint8Array,
  host: GltfHost,
  { metresPerUnit = 1 }: { metresPerUnit?: number } = {},
): Promise<ReadModel> {
  const kind = MODEL_FILES.find((ending) => name.toLowerCase().endsWith(`.${ending}`))
  if (!kind)
    throw new GristError('file-unsupported', `Expected a model as ${MODEL_FILES.map((one) => `.${one}`).join(', ')}.`, {
      file: name,
    })
  if (bytes.length > LIMITS.model.bytes)
    throw new GristError('mesh-invalid', `Expected at most ${LIMITS.model.bytes >> 20} MB.`, { file: name })
  try {
    const { raw, textures } = await READERS[kind](bytes, host)
    if (metresPerUnit !== 1 && kind !== 'glb' && kind !== 'gltf')
      for (let i = 0; i < raw.positions.length; i++) raw.positions[i] = raw.positions[i]! * metresPerUnit
    return { mesh: finishMesh(raw), textures }
  } catch (error) {
    if (error instanceof GristError) throw error.at({ file: name })
    throw error
  }
}
