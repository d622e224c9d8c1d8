import { readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { GristError } from '#core/errors'
import { simd } from '#core/kernels/simd'
import { changeLayout } from '#core/mesh/layout-change'
import type { Mesh } from '#core/mesh/mesh'
import { overlapsIn, summaryBesideOverlaps } from '#core/mesh/mesh-summary'
import { packMesh, unpackMesh } from '#core/mesh/packed-mesh'
import { readMesh } from '#core/mesh/read-mesh'
import { failureOf } from '../task-outcome'
import { modelDecoders } from './model-decoders'
import type { FoundTexture, LookTask, ModelTask } from './model-task'
import { uvAtlases } from './uv-atlas'

// Readers warn about what they skip; a thread that reads foreign files says nothing on the console.
console.warn = () => {}

/** Has all there that reading a model takes. */
export async function wake(): Promise<void> {
  simd()
  await modelDecoders()
}

/** Entry of the threads that read models, lay them out and look at them. What a reader throws means a broken file. */
export default async (task: ModelTask | LookTask): Promise<object> => {
  try {
    switch (task.kind) {
      case 'overlaps':
        return overlapsIn(await meshIn(task.mesh))
      case 'beside overlaps':
        return summaryBesideOverlaps(await meshIn(task.mesh))
      case 'lay out': {
        const mesh = await changeLayout(await meshIn(task.mesh), task.how, await uvAtlases())
        await writeFile(task.out, packMesh(mesh))
        return { textures: [] }
      }
      case 'import': {
        const { mesh, textures } = await imported(task)
        await writeFile(task.out, packMesh(mesh))
        return { textures }
      }
    }
  } catch (error) {
    const place = task.kind === 'import' ? { file: task.file } : {}
    if (error instanceof GristError) return failureOf(error.at(place))
    const reason = (error as Error).message.split('\n')[0]!.replace(/[:.]*$/, '')
    return failureOf(new GristError('mesh-invalid', `The model could not be read: ${reason}.`, place))
  }
}

const meshIn = async (path: string): Promise<Mesh> => unpackMesh(await readFile(path))

async function imported({
  path,
  file,
  metresPerUnit,
  textures: folder,
}: ModelTask & { kind: 'import' }): Promise<{ mesh: Mesh; textures: FoundTexture[] }> {
  // A file that was sent comes alone: nothing lies beside it.
  const host = { decoders: await modelDecoders(), file: () => null }
  const { mesh, textures } = await readMesh(file, await readFile(path), host, { metresPerUnit })
  const found: FoundTexture[] = []
  for (const [i, { material, slot, mime, bytes }] of textures.entries()) {
    const ending = ENDINGS[mime]
    if (ending === undefined) continue
    const at = join(folder, `${i}`)
    await writeFile(at, bytes)
    found.push({ material, role: slot.replace(/Texture$/, ''), path: at, ending })
  }
  return { mesh, textures: found }
}

const ENDINGS: Record<string, string> = { 'image/png': 'png', 'image/jpeg': 'jpg', 'image/webp': 'webp' }
