import { randomUUID } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { Readable } from 'node:stream'
import { mkdir } from 'node:fs/promises'
import type { Knex } from 'knex'
import { cutText } from '#core/cut-text'
import { LIMITS } from '#core/limits'
import type { BakeSettings } from '#core/mesh/bake-settings'
import { STANDARD_SETTINGS, bakeSettings, optionsFor } from '#core/mesh/bake-settings'
import type { Field } from '#core/field/field'
import { bakerNamed, meshDataKey } from '#core/mesh/mesh-data'
import type { PartData } from '#core/mesh/vertex-result'
import { shownBy, vertexResult } from '#core/mesh/vertex-result'
import type { Mesh } from '#core/mesh/mesh'
import type { MeshSummary } from '#core/mesh/mesh-summary'
import { sharing } from '#core/mesh/file-sets'
import { meshSummary } from '#core/mesh/mesh-summary'
import { packMesh, unpackMesh } from '#core/mesh/packed-mesh'
import { onModelThreads, wakeModelThreads } from '#runtime/node/guarded-model'
import type { FoundTexture } from '#runtime/node/model-task'
import type { CompanionMesh, MeshDataInfo, ModelCard, ModelPage } from '../../contracts/model'
import { bringIntoProject, importImage } from '../assets/assets.server'
import { database, one } from '../database/database.server'
import { broughtInKey, keptMeshData } from './mesh-data.server'
import { Problem } from '../http/problem.server'
import { receivedFile } from '../http/received-file.server'
import { blobResponse, checkQuota, putBlob, wholeBlob } from '../storage/blobs.server'
import type { Spooled } from '../storage/uploads.server'

/** Receives the file of a model as receivedFile does; the threads that read it start meanwhile. */
export function receivedModel<T>(request: Request, work: (file: Spooled, name: string) => Promise<T>): Promise<T> {
  wakeModelThreads()
  return receivedFile(request, LIMITS.model.bytes, work)
}

/** Which of a model's meshes a file is. */
export type MeshRole = 'low' | 'high' | 'cage'

const gone = (): Problem => new Problem(404, 'There is no such model. It may have been deleted.')

/** A file as a mesh that is kept, by the hash of its bytes. `textures` are those of its own materials. */
interface ImportedMesh {
  readonly sha256: string
  readonly summary: MeshSummary
  readonly textures: readonly FoundTexture[]
}

/** Reads a file that has arrived on guarded threads and keeps its mesh. Throws mesh-invalid, file-unsupported, a Problem 507. */
async function importMesh(file: Spooled, name: string): Promise<ImportedMesh> {
  const textures = `${file.path}-textures`
  await mkdir(textures)
  const out = `${file.path}-mesh`
  return onModelThreads(
    { kind: 'import', path: file.path, file: name, metresPerUnit: 1, textures, out },
    async (made) => ({
      sha256: await keepMesh(createReadStream(out, { highWaterMark: 1 << 20 }), made.summary),
      summary: await made.summary,
      textures: made.textures,
    }),
    { client: file.client },
  )
}

/** Keeps the bytes of a mesh with its summary, which may still be on its way; equal ones once. */
export async function keepMesh(
  bytes: AsyncIterable<Uint8Array>,
  summary: MeshSummary | Promise<MeshSummary>,
): Promise<string> {
  return database().transaction(async (transaction) => {
    const blob = await putBlob(transaction, bytes)
    await checkQuota(transaction, 0)
    await transaction('meshes')
      .insert({ sha256: blob.sha256, summary: JSON.stringify(await summary) })
      .onConflict('sha256')
      // Its day of grace begins again: nothing names it yet.
      .merge({ created_at: transaction.fn.now() })
    return blob.sha256
  })
}

const plainName = (file: string): string => cutText(file.replace(/\.[^.]+$/, '').trim() || 'Model', LIMITS.name)

/** A new model of a project from a file that has arrived. The textures of its own materials become images of the project. */
export async function addModel(
  project: string,
  file: Spooled,
  fileName: string,
  name = plainName(fileName),
): Promise<string> {
  const { sha256, textures } = await importMesh(file, fileName)
  const row = await one<{ id: string }>(
    database().raw(
      `insert into models (project_id, name, file_name, original_sha256, mesh_sha256, settings)
       select id, ?, ?, ?, ?, ? from projects where id = ? and deleted_at is null returning id`,
      [name, cutText(fileName, LIMITS.name), sha256, sha256, JSON.stringify(STANDARD_SETTINGS), project],
    ),
  )
  if (!row) throw new Problem(404, 'There is no such project. It may have been deleted.')
  await bringInTextures(project, name, textures)
  return row.id
}

/** A new model of a project from meshes that our own code has made. */
export async function addMadeModel(
  project: string,
  name: string,
  { low, high }: { low: Mesh; high: Mesh | null },
  settings: BakeSettings,
): Promise<string> {
  const kept = (mesh: Mesh): Promise<string> => keepMesh(Readable.from([packMesh(mesh)]), meshSummary(mesh))
  const [mesh, twin] = [await kept(low), high && (await kept(high))]
  const [row] = await database()('models')
    .insert({
      project_id: project,
      name,
      file_name: `${name}, made here`,
      ...{ original_sha256: mesh, mesh_sha256: mesh, high_sha256: twin, high_name: twin && `${name}, high` },
      settings: JSON.stringify(settings),
    })
    .returning<{ id: string }[]>('id')
  return row!.id
}

/** A texture that cannot be read is no reason to refuse its model. */
async function bringInTextures(project: string, model: string, textures: readonly FoundTexture[]): Promise<void> {
  for (const { material, role, path, ending } of textures) {
    try {
      const { sha256 } = await importImage(
        createReadStream(path),
        cutText(`${model} ${material} ${role}.${ending}`, LIMITS.name),
      )
      await bringIntoProject(sha256, project)
    } catch (error) {
      console.error('texture of a model:', (error as Error).message)
    }
  }
}

/**
 * Gives a model another file for one of its meshes; settings stay, and mesh data are stale where what they were made from is another.
 * A cage must have as many triangles as the model. Throws what importing throws, Problems 404 and 422.
 */
export async function replaceMesh(id: string, role: MeshRole, file: Spooled, fileName: string): Promise<void> {
  const { sha256, summary, textures } = await importMesh(file, fileName)
  const row = await rowOf(id)
  if (role === 'cage' && summary.triangles !== row.summary.triangles)
    throw new Problem(
      422,
      `A cage is the model itself, grown: it has as many triangles. Expected ${row.summary.triangles} but this has ${summary.triangles}.`,
    )
  const name = cutText(fileName, LIMITS.name)
  await change(
    id,
    role === 'low'
      ? { mesh_sha256: sha256, original_sha256: sha256, file_name: name }
      : { [`${role}_sha256`]: sha256, [`${role}_name`]: name },
  )
  if (role === 'low') await bringInTextures(row.project_id, row.name, textures)
}

/** Takes the high twin or the cage from a model. */
export const removeCompanion = (id: string, role: 'high' | 'cage'): Promise<void> =>
  change(id, { [`${role}_sha256`]: null, [`${role}_name`]: null })

/** Lays a model out as a mesh that is kept has it; its high twin and its settings stay. A cage fits as long as triangles keep their order. */
export const setMesh = (id: string, sha256: string): Promise<void> => change(id, { mesh_sha256: sha256 })

/** Back to the layout that its file has. */
export async function layOutAsCame(id: string): Promise<void> {
  await change(id, { mesh_sha256: database().ref('original_sha256') })
}

export const renameModel = (id: string, name: string): Promise<void> => change(id, { name: cutText(name, LIMITS.name) })

/** Changes some settings; the others stay as they are. */
export const setBakeSettings = (id: string, settings: Partial<BakeSettings>): Promise<void> =>
  change(id, { settings: database().raw('settings || ?::jsonb', [JSON.stringify(settings)]) })

/** Tells which part shares the files of which, and each its own again where it is told to share with itself. */
export async function shareFiles(id: string, part: number, other: number): Promise<void> {
  await database().transaction(async (transaction) => {
    const row = await transaction('models').where({ id }).forUpdate().first<ModelRow | undefined>('joins')
    if (row) await change(id, { joins: JSON.stringify(sharing(row.joins, part, other)) }, transaction)
  })
}

export async function setModelDeleted(id: string, deleted: boolean): Promise<void> {
  const count = await database()('models')
    .where({ id })
    .update({ deleted_at: deleted ? database().fn.now() : null })
  if (count === 0) throw gone()
}

async function change(
  id: string,
  values: Record<string, string | null | Knex.Raw | Knex.Ref<string, object>>,
  from: Knex = database(),
): Promise<void> {
  const count = await from('models')
    .where({ id, deleted_at: null })
    .update({ ...values, changed_at: database().fn.now() })
  if (count === 0) throw gone()
}

interface ModelRow {
  readonly id: string
  readonly name: string
  readonly project_id: string
  readonly project: string
  readonly file_name: string
  readonly original_sha256: string
  readonly mesh_sha256: string
  readonly summary: MeshSummary
  readonly high_name: string | null
  readonly high_sha256: string | null
  readonly high_summary: MeshSummary | null
  readonly cage_name: string | null
  readonly cage_sha256: string | null
  readonly cage_summary: MeshSummary | null
  readonly settings: unknown
  readonly joins: Readonly<Record<number, number>>
}

async function rowOf(id: string): Promise<ModelRow> {
  const row = await one<ModelRow>(
    database().raw(
      `select m.*, p.name as project, l.summary, h.summary as high_summary, c.summary as cage_summary
       from models m join projects p on p.id = m.project_id join meshes l on l.sha256 = m.mesh_sha256
       left join meshes h on h.sha256 = m.high_sha256 left join meshes c on c.sha256 = m.cage_sha256
       where m.id = ? and m.deleted_at is null and p.deleted_at is null`,
      [id],
    ),
  )
  if (!row) throw gone()
  return { ...row, summary: await wholeSummary(row.mesh_sha256, row.summary) }
}

/** A summary with all that is told today: one that was kept before is made again, once. */
async function wholeSummary(sha256: string, summary: MeshSummary): Promise<MeshSummary> {
  if (summary.parts.every((part) => 'metresPerUnit' in part)) return summary
  const whole = meshSummary(await keptMesh(sha256))
  await database()('meshes')
    .where({ sha256 })
    .update({ summary: JSON.stringify(whole) })
  return whole
}

/** Settings as they were kept, with those that came later as they are at first. */
const settingsOf = (kept: unknown): BakeSettings => bakeSettings.parse({ ...STANDARD_SETTINGS, ...(kept as object) })

const companion = (name: string | null, sha256: string | null, summary: MeshSummary | null): CompanionMesh | null =>
  name === null || sha256 === null || summary === null ? null : { name, sha256, summary }

/** What the options of a model's bakes are measured by: its box stands for its vertices. */
export const boxMesh = ({ box: { min, max } }: MeshSummary): Pick<Mesh, 'positions' | 'triangles'> => ({
  positions: Float32Array.from([...min, ...max]),
  triangles: Uint32Array.from([0, 1]),
})

/** Those of parts that are there: another mesh may have fewer. */
const joinsWithin = (joins: ModelRow['joins'], parts: number): ModelRow['joins'] =>
  Object.fromEntries(Object.entries(joins).filter(([part, owner]) => Number(part) < parts && owner < parts))

export async function openModel(id: string): Promise<ModelPage> {
  const row = await rowOf(id)
  const settings = settingsOf(row.settings)
  const contents = { mesh: row.mesh_sha256, high: row.high_sha256, cage: row.cage_sha256 }
  const options = optionsFor(settings, boxMesh(row.summary))
  const made = await database()('mesh_data').where({ model_id: id }).orderBy(['part', 'kind', 'udim']).select<
    (Omit<MeshDataInfo, 'width' | 'fresh' | 'madeAt'> & {
      key: string
      shape: { width: number }
      created_at: string
    })[]
  >('part', 'kind', 'udim', 'key', 'sha256', 'shape', 'missed', 'created_at')
  return {
    id,
    name: row.name,
    project: { id: row.project_id, name: row.project },
    fileName: row.file_name,
    mesh: row.mesh_sha256,
    asCame: row.mesh_sha256 === row.original_sha256,
    summary: row.summary,
    high: companion(row.high_name, row.high_sha256, row.high_summary),
    cage: companion(row.cage_name, row.cage_sha256, row.cage_summary),
    settings,
    joins: joinsWithin(row.joins, row.summary.parts.length),
    data: made.map(({ key, shape, created_at, ...data }) => ({
      ...data,
      width: shape.width,
      fresh: key === broughtInKey(row.mesh_sha256) || key === meshDataKey(contents, data, settings, options),
      madeAt: created_at,
    })),
  }
}

/** Kinds whose swatches stand for a model, as far as they are there. */
const SHOWN = ['normal', 'occlusion', 'curvature', 'position']

export async function listModels(project: string): Promise<ModelCard[]> {
  const { rows } = await database().raw<{
    rows: (Omit<ModelCard, 'swatches'> & { shown: { part: number; kind: string; udim: number; key: string }[] })[]
  }>(
    `select m.id, m.name, m.mesh_sha256 as mesh, (l.summary->>'triangles')::int as triangles,
       jsonb_array_length(l.summary->'parts') as parts, m.changed_at as "changedAt",
       coalesce((select json_agg(json_build_object('part', d.part, 'kind', d.kind, 'udim', d.udim, 'key', d.sha256))
         from mesh_data d where d.model_id = m.id and d.part = 0 and d.kind = any(?)), '[]') as shown
     from models m join meshes l on l.sha256 = m.mesh_sha256
     where m.project_id = ? and m.deleted_at is null order by m.created_at`,
    [SHOWN, project],
  )
  return rows.map(({ shown, ...card }) => ({
    ...card,
    swatches: SHOWN.flatMap((kind) => {
      const found = shown.find((one) => one.kind === kind)
      return found ? [meshDataAddress(card.id, found, 'swatch', found.key)] : []
    }),
  }))
}

/** Where a page finds a picture of mesh data; `key` changes with what it shows. */
const meshDataAddress = (
  model: string,
  { part, kind, udim }: { part: number; kind: string; udim: number },
  what: 'swatch',
  key: string,
): string => `/models/${model}/data/${part}/${kind}/${udim}/${what}?k=${key.slice(0, 16)}`

/** One of a model's meshes as it is kept. An address that names its hash gives the same for ever. */
export async function meshResponse(request: Request, id: string, role: MeshRole): Promise<Response> {
  const row = await rowOf(id)
  const sha256 = { low: row.mesh_sha256, high: row.high_sha256, cage: row.cage_sha256 }[role]
  if (sha256 === null) throw new Problem(404, 'There is no such mesh.')
  const named = new URL(request.url).searchParams.get('k')
  return blobResponse(request, sha256, {
    'Content-Type': 'application/octet-stream',
    ...(named === sha256 ? { 'Cache-Control': 'private, no-transform, max-age=31536000, immutable' } : {}),
  })
}

/** A mesh that is kept, by its hash. Throws a Problem 404. */
export async function meshByHash(request: Request, sha256: string): Promise<Response> {
  if (!(await database()('meshes').where({ sha256 }).first('sha256'))) throw new Problem(404, 'There is no such mesh.')
  return blobResponse(request, sha256, {
    'Content-Type': 'application/octet-stream',
    'Cache-Control': 'private, no-transform, max-age=31536000, immutable',
  })
}

/** The model with one kind of its mesh data as vertex colours; of parts that have it. */
export async function modelWithVertexColours(id: string, kind: string): Promise<Mesh> {
  const { mesh: sha256, settings, data, summary } = await openModel(id)
  const mesh = await keptMesh(sha256)
  const baker = bakerNamed(kind)
  if (!baker || !data.some((one) => one.kind === kind))
    throw new Problem(404, 'These mesh data have not been made yet.')
  const shown = shownBy(baker, { options: optionsFor(settings, boxMesh(summary)), box: summary.box })
  const parts: PartData[] = []
  for (const [i, part] of mesh.parts.entries()) {
    const tiles = new Map<number, Field>()
    for (const one of data) if (one.part === i && one.kind === kind) tiles.set(one.udim, await keptMeshData(id, one))
    if (tiles.size > 0) parts.push({ part, tiles, shown })
  }
  return vertexResult(mesh, settings.uvSet, parts)
}

/** The mesh that is kept under a hash. */
export async function keptMesh(sha256: string): Promise<Mesh> {
  return unpackMesh(await wholeBlob(sha256))
}

/** A copy of a project takes its models along; tells which model became which. */
export async function copyModels(
  transaction: Knex.Transaction,
  from: string,
  to: string,
): Promise<Map<string, string>> {
  const copies = new Map((await modelsOf(from, transaction)).map((id) => [id, randomUUID() as string]))
  const pairs = [[...copies.keys()], [...copies.values()]]
  await transaction.raw(
    `insert into models (id, project_id, name, file_name, original_sha256, mesh_sha256, high_name, high_sha256, cage_name, cage_sha256, settings, joins, created_at)
     select c.copy, ?, m.name, m.file_name, m.original_sha256, m.mesh_sha256, m.high_name, m.high_sha256, m.cage_name, m.cage_sha256, m.settings, m.joins, m.created_at
     from models m join unnest(?::uuid[], ?::uuid[]) as c(id, copy) on c.id = m.id`,
    [to, ...pairs],
  )
  await transaction.raw(
    `insert into mesh_data (model_id, part, kind, udim, key, sha256, shape, missed, picture, swatch, record)
     select c.copy, d.part, d.kind, d.udim, d.key, d.sha256, d.shape, d.missed, d.picture, d.swatch, d.record
     from mesh_data d join unnest(?::uuid[], ?::uuid[]) as c(id, copy) on c.id = d.model_id`,
    pairs,
  )
  return copies
}

/** The models of a project, in the order they came. */
export const modelsOf = (project: string, from: Knex = database()): Promise<string[]> =>
  from('models').where({ project_id: project, deleted_at: null }).orderBy(['created_at', 'id']).pluck<string[]>('id')
