import { bakerNamed } from '#core/mesh/mesh-data'
import type { MeshDataPlace } from '#core/mesh/mesh-data'
import { meshDataFileEnding, writeMeshData } from '#core/texture/mesh-data-file'
import { readFile, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { createFile } from '#runtime/node/files'
import { ownFolder } from '#runtime/node/own-folders'
import { keptMeshData } from './mesh-data.server'
import { openModel } from './models.server'

/** Mesh data as a file to take along. */
export async function meshDataFile(modelId: string, place: MeshDataPlace): Promise<Response> {
  const { name, summary } = await openModel(modelId)
  const baker = bakerNamed(place.kind)
  const field = await keptMeshData(modelId, place)
  const folder = await ownFolder()
  try {
    const path = join(folder, 'file')
    const file = createFile(path)
    writeMeshData(baker, field, file.output)
    await file.close()
    const part = summary.parts[place.part]?.name ?? 'part'
    const tile = place.udim === 1001 ? '' : `_${place.udim}`
    const called = `${name}_${part}_${place.kind}${tile}.${meshDataFileEnding(baker)}`
    return new Response(new Uint8Array(await readFile(path)), {
      headers: {
        'Content-Type': 'application/octet-stream',
        'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(called)}`,
      },
    })
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}
