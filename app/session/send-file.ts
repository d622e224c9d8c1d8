import { bytesToHex } from '@noble/hashes/utils.js'
import { cutTextEnd } from '#core/cut-text'
import { startHash } from '#core/hash'
import { ask } from './ask'
import { modelWorker } from './model/model-worker'
import { drawingOfSvg, isSvg } from './svg-drawing'
import type { Asset } from '../contracts/asset'

/**
 * SHA-256. The browser's own is ten times as fast and holds up nothing, but it wants the whole file at once, and is missing over plain
 * HTTP: what is large is read a piece at a time.
 */
async function hashOf(file: File): Promise<string> {
  if (file.size <= HASH_WHOLE && 'subtle' in crypto)
    return bytesToHex(new Uint8Array(await crypto.subtle.digest('SHA-256', await file.arrayBuffer())))
  const hash = startHash()
  for (let at = 0; at < file.size; at += HASH_PIECE)
    hash.update(new Uint8Array(await file.slice(at, at + HASH_PIECE).arrayBuffer()))
  return hash.digest()
}
const HASH_PIECE = 4 << 20
const HASH_WHOLE = 128 << 20

/** The server gives up what stalls; a large file over a slow line may take an hour. */
const SEND = 3600_000

/** File names that a dialog for images shows. */
export const IMAGE_FILES = '.png,.jpg,.jpeg,.webp,.tif,.tiff,.exr,.hdr,.tga,.dds,.ktx2,.svg'

/** Sends an image with its hash to the library, and into a project where one is named; an SVG file as the drawing that it makes. Gives it as the library has it, or what went wrong, in words. */
export async function sendImage(given: File, project?: string): Promise<Asset | string> {
  try {
    const file = isSvg(given) ? await drawingOfSvg(given) : given
    return await sendFile<Asset>(
      file,
      `/assets?${project === undefined ? '' : `project=${project}&`}name=${nameFor(file)}`,
    )
  } catch (error) {
    return (error as Error).message
  }
}

/** Whether a file is an image that can be sent, by its name. */
export const isImage = ({ name }: { readonly name: string }): boolean =>
  IMAGE_FILES.split(',').some((ending) => name.toLowerCase().endsWith(ending))

/** Sends a file of materials into a project. Gives the ids of what came in, or what went wrong, in words. */
export const sendMaterials = (file: File, project: string): Promise<{ documents: string[] } | string> =>
  sendFile<{ documents: string[] }>(file, `/projects/${project}/materials.zip`)

/** File names that a dialog for models shows. */
export const MODEL_ACCEPT = '.glb,.gltf,.obj,.ply,.stl'

/** Whether a file is a model, by its name. */
export const isModel = ({ name }: { readonly name: string }): boolean =>
  MODEL_ACCEPT.split(',').some((ending) => name.toLowerCase().endsWith(ending))

const nameFor = (file: File): string => encodeURIComponent(cutTextEnd(file.name, 200))

/** Sends a model into a project. Gives its id, or what went wrong, in words. */
export function sendModel(file: File, project: string): Promise<{ id: string } | string> {
  // It starts while the server reads the model: its page asks for it.
  modelWorker()
  return sendFile<{ id: string }>(file, `/projects/${project}/models?name=${nameFor(file)}`)
}

/** Gives a model another file for one of its meshes. Gives what went wrong, in words; null where nothing did. */
export async function sendMesh(file: File, model: string, role: 'low' | 'high' | 'cage'): Promise<string | null> {
  const sent = await sendFile<object>(file, `/models/${model}/mesh?role=${role}&name=${nameFor(file)}`)
  return typeof sent === 'string' ? sent : null
}

async function sendFile<T>(file: File, address: string): Promise<T | string> {
  try {
    const sha256 = await hashOf(file)
    const response = await ask(
      address,
      {
        method: 'POST',
        headers: { 'X-Content-SHA256': sha256 },
        body: file,
      },
      SEND,
    )
    return response.ok ? ((await response.json()) as T) : ((await response.json()) as { error: string }).error
  } catch {
    return `${file.name} could not be sent: cannot reach the server.`
  }
}
