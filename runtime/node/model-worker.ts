import { readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { GristError } from '#core/errors'
import { layoutOf } from '#core/mesh/layout'
import { layoutFacts } from '#core/mesh/layout-facts'
import type { Mesh } from '#core/mesh/mesh'
import { boxOf } from '#core/mesh/mesh'
import { packMesh, unpackMesh } from '#core/mesh/packed-mesh'
import { readMesh } from '#core/mesh/read-mesh'
import { shiftOverlapping } from '#core/mesh/shift-islands'
import { repack, unwrap } from '#core/mesh/unwrap'
import type { TaskFailure } from '../task-outcome'
import { failureOf } from '../task-outcome'
import { modelDecoders } from './model-decoders'
import type { FoundTexture, LayoutChange, MeshSummary, ModelResult, ModelTask } from './model-task'
import { uvAtlases } from './uv-atlas'

// Readers warn about what they skip; a thread that reads foreign files says nothing on the console.
console.warn = () => {}

/** Entry of the thread that reads models and lays them out. What a reader throws means a broken file. */
export default async (task: ModelTask): Promise<ModelResult | TaskFailure> => {
  try {
    const { mesh, textures } =
      task.kind === 'import'
        ? await imported(task)
        : { mesh: await laidOut(unpackMesh(await readFile(task.mesh)), task.how), textures: [] }
    await writeFile(task.out, packMesh(mesh))
    return { summary: summaryOf(mesh), textures }
  } catch (error) {
    const place = task.kind === 'import' ? { file: task.file } : {}
    if (error instanceof GristError) return failureOf(error.at(place))
    const reason = (error as Error).message.split('\n')[0]!.replace(/[:.]*$/, '')
    return failureOf(new GristError('mesh-invalid', `The model could not be read: ${reason}.`, place))
  }
}

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

async function laidOut(mesh: Mesh, { cure, parts, uvSet, size, spacing }: LayoutChange): Promise<Mesh> {
  const chosen = mesh.parts.filter((_, i) => parts.includes(i))
  if (cure === 'shift') return shiftOverlapping(mesh, chosen, uvSet)
  const request = { size, spacing, uvSet, newAtlas: await uvAtlases() }
  return cure === 'unwrap' ? unwrap(mesh, chosen, request) : repack(mesh, chosen, request)
}

const summaryOf = (mesh: Mesh): MeshSummary => ({
  triangles: mesh.triangles.length / 3,
  vertices: mesh.positions.length / 3,
  box: boxOf(mesh),
  uvSets: mesh.uvSets.length,
  colours: mesh.colours !== null,
  notes: mesh.notes,
  parts: mesh.parts.map((part) => ({
    name: part.name,
    material: part.material,
    triangles: part.count,
    layouts: Array.from({ length: part.uvSets }, (_, set) => layoutFacts(layoutOf(mesh, part, set), 1)),
  })),
})
