import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { meshSummary } from '#core/mesh/mesh-summary'
import { unpackMesh } from '#core/mesh/packed-mesh'
import { blockObj } from '#core/mesh/testing/shapes'
import type { MadeMesh } from './guarded-model'
import { onModelThreads, wakeModelThreads } from './guarded-model'
import type { ModelTask } from './model-task'

let folder: string
beforeAll(async () => void (folder = await mkdtemp(join(tmpdir(), 'guarded-'))))
afterAll(() => rm(folder, { recursive: true }))

async function task(text = blockObj(1, 2, 3)): Promise<ModelTask> {
  const path = join(folder, 'block.obj')
  await writeFile(path, text)
  return { kind: 'import', path, file: 'block.obj', metresPerUnit: 1, textures: folder, out: join(folder, 'mesh') }
}

test('a mesh can be kept before all is known of it, and two threads find what one does', async () => {
  wakeModelThreads()
  const [mesh, summary] = await onModelThreads(await task(), async (made) => [
    unpackMesh(await readFile(join(folder, 'mesh'))),
    await made.summary,
  ])
  expect(mesh.triangles).toHaveLength(36)
  expect(summary).toEqual(meshSummary(mesh))
})

test('who cannot keep a mesh leaves nobody waiting', async () => {
  let looking: Promise<unknown> | null = null
  const full = async ({ summary }: MadeMesh): Promise<never> => {
    looking = summary
    throw new Error('disk full')
  }
  // More than are read at the same time.
  for (let i = 0; i < 3; i++) await expect(onModelThreads(await task(), full)).rejects.toThrow('disk full')
  await expect(looking).rejects.toThrow('aborted')
  await expect(onModelThreads(await task(), ({ summary }) => summary)).resolves.toMatchObject({ triangles: 12 })
})

test('a model that is no longer wanted, or takes too long, is given up', async () => {
  const summary = (made: MadeMesh): Promise<unknown> => made.summary
  await expect(onModelThreads(await task(), summary, { signal: AbortSignal.abort() })).rejects.toMatchObject({
    code: 'cancelled',
  })
  await expect(onModelThreads(await task(), summary, { milliseconds: 1 })).rejects.toMatchObject({
    code: 'mesh-invalid',
    detail: 'Reading the model took too long.',
    place: { file: 'block.obj' },
  })
  await expect(onModelThreads(await task('nothing of use'), summary)).rejects.toMatchObject({ code: 'mesh-invalid' })
})
