import type { Knex } from 'knex'
import type { PartFacts } from '#core/document/domain'
import { onPart } from '#core/document/domain'
import type { MaterialDocument } from '#core/document/document'
import type { LaidOn } from '#core/document/layered-document'
import { layeredDocument } from '#core/document/layered-document'
import { cutText } from '#core/cut-text'
import { GristError } from '#core/errors'
import { LIMITS } from '#core/limits'
import type { PickedIds } from '#core/picked-ids'
import { fileSets } from '#core/mesh/file-sets'
import type { MeshDataPlace } from '#core/mesh/mesh-data'
import { tilesOf } from '#core/mesh/mesh-data'
import type { MeshDataRecord } from '#core/mesh/mesh-data-record'
import { bakedAs } from '#core/mesh/mesh-data-record'
import { partFactsOf } from '#core/mesh/part-facts'
import { FIRST_TILE } from '#core/document/domain'
import type { FileSet } from '#runtime/node/deliver-parts'
import type { PlacedMaterial, PlacedOn, ProjectParts, PartPlace, ProjectPart } from '../../contracts/parts'
import type { ModelPage } from '../../contracts/model'
import { createDocument, openDocument } from '../documents/documents.server'
import { emptyMaterial } from '../projects/materials.server'
import { enqueue } from '../runs/runs.server'
import { database } from '../database/database.server'
import { Problem } from '../http/problem.server'
import { modelsOf, openModel } from '../models/models.server'
import { meshDataName } from '../models/mesh-data.server'

/** Models of a project with the materials that lie on their parts. */
export async function projectParts(project: string): Promise<ProjectParts[]> {
  const placed = await placedIn(project)
  const found: ProjectParts[] = []
  for (const id of await modelsOf(project)) {
    const model = await openModel(id)
    const parts = model.summary.parts.flatMap((_, part) =>
      udimsOf(model, part).map((udim) => partOfModel(model, part, udim, placed.get(`${id} ${part}`) ?? [])),
    )
    found.push({ id, name: model.name, mesh: model.mesh, uvSet: model.settings.uvSet, parts })
  }
  return found
}

/** Tiles that a part lies in. */
const tilesOfPart = ({ summary, settings }: ModelPage, part: number): readonly number[] =>
  tilesOf(summary.parts[part]?.layouts[settings.uvSet]?.tiles ?? [], settings)

/** The numbers of a part's tiles; undefined alone where it lies in the first only. */
function udimsOf(model: ModelPage, part: number): readonly (number | undefined)[] {
  const tiles = tilesOfPart(model, part)
  return tiles.length === 1 && tiles[0] === FIRST_TILE ? [undefined] : tiles
}

interface PlacedRow {
  readonly slot: number
  readonly ids: PickedIds | null
  readonly material: PlacedMaterial
}

function partOfModel(
  model: ModelPage,
  part: number,
  udim: number | undefined,
  placed: readonly PlacedRow[],
): ProjectPart {
  const { name, triangles, layouts } = model.summary.parts[part]!
  const stale = model.data.filter((one) => one.part === part && one.udim === (udim ?? FIRST_TILE) && !one.fresh)
  const drafts = stale.filter(({ width }) => width < model.settings.size)
  const kindsOf = (data: typeof stale): string[] => data.map(({ kind }) => kind)
  return {
    ...{ part, name, triangles, uvSets: layouts.length },
    ...(udim === undefined ? {} : { udim }),
    material: placed.find(({ ids }) => !ids)?.material ?? null,
    onIds: placed.flatMap(({ slot, ids, material }) => (ids ? [{ slot, ids, material }] : [])),
    ...{ stale: kindsOf(stale), drafts: kindsOf(drafts) },
    facts: factsOf(model, part, udim),
  }
}

/** How the mesh data of a model were baked, by part, tile and kind; of what was brought in nothing is told. */
async function bakedOf(model: string): Promise<(part: number, udim: number | undefined) => PartFacts['baked']> {
  const rows = await database()('mesh_data')
    .where({ model_id: model })
    .whereRaw(`record->'settings' is not null`)
    .select<(MeshDataPlace & { record: MeshDataRecord })[]>('part', 'udim', 'kind', 'record')
  return (part, udim = FIRST_TILE) =>
    Object.fromEntries(
      rows
        .filter((one) => one.part === part && one.udim === udim)
        .map(({ kind, record }) => [kind, bakedAs(record)] as const),
    )
}

function factsOf(model: ModelPage, part: number, udim: number | undefined): PartFacts {
  const { name, mesh, summary, settings, data } = model
  const here = data.filter((one) => one.part === part && one.udim === (udim ?? FIRST_TILE))
  const normal = here.find(({ kind }) => kind === 'normal')
  const missed = normal && model.high ? { missed: normal.missed / normal.width ** 2 } : {}
  return partFactsOf({
    ...missed,
    ...{ summary, mesh, part },
    ...(udim === undefined ? {} : { udim }),
    name: summary.parts.length === 1 ? name : `${name}, ${summary.parts[part]!.name}`,
    uvSet: settings.uvSet,
    data: Object.fromEntries(here.map(({ kind, sha256 }) => [kind, meshDataName(sha256)])),
  })
}

interface PlacementRow {
  readonly part: number
  readonly slot: number
  readonly ids: PickedIds | null
  readonly document_id: string
}

const placementsOf = (model: string, on: Knex = database()): Promise<PlacementRow[]> =>
  on('part_materials')
    .join('documents', 'documents.id', 'part_materials.document_id')
    .where({ model_id: model, 'documents.deleted_at': null })
    .orderBy(['part', 'slot'])
    .select<PlacementRow[]>('part', 'slot', 'ids', 'document_id')

/** The file sets of a model: its materials, each with the newest of its revisions, on the parts that they lie on. */
export async function dressedSets(model: ModelPage): Promise<FileSet[]> {
  const placed = (await placementsOf(model.id))
    .filter(({ part }) => part < model.summary.parts.length)
    .map(({ ids, ...one }) => ({ ...one, ...(ids ? { ids } : {}) }))
  const documents = new Map<string, MaterialDocument>()
  for (const { document_id: id } of placed) if (!documents.has(id)) documents.set(id, (await openDocument(id)).document)
  const baked = await bakedOf(model.id)
  return fileSets(placed, model.joins, (part) => tilesOfPart(model, part)).map(({ part, udim, placed: own }) => ({
    part,
    ...(udim === undefined ? {} : { udim }),
    materials: own.map((one) => ({
      part: one.part,
      ...(one.ids ? { ids: one.ids } : {}),
      document: onPart(documents.get(one.document_id)!, {
        ...factsOf(model, one.part, udim),
        baked: baked(one.part, udim),
      }),
    })),
  }))
}

/** Materials for parts of a project, by name; and which lies on which part of a model. */
export async function placedOn(model: Pick<ModelPage, 'id' | 'project'>): Promise<PlacedOn> {
  const materials = await database()('documents')
    .where({ project_id: model.project.id, deleted_at: null })
    .whereRaw(`summary->>'over' = 'part'`)
    .orderBy('name')
    .select<{ id: string; name: string }[]>('id', 'name')
  const rows = await placementsOf(model.id)
  return {
    materials,
    onPart: Object.fromEntries(rows.flatMap(({ part, ids, document_id }) => (ids ? [] : [[part, document_id]]))),
    onIds: rows.flatMap(({ part, slot, ids, document_id: material }) => (ids ? [{ part, slot, ids, material }] : [])),
  }
}

async function placedIn(project: string): Promise<Map<string, PlacedRow[]>> {
  const { rows } = await database().raw<{
    rows: (PlacedMaterial & Pick<PlacedRow, 'slot' | 'ids'> & { model_id: string; part: number })[]
  }>(
    `select p.model_id, p.part, p.slot, p.ids, d.id, d.name, d.head from part_materials p
     join models m on m.id = p.model_id join documents d on d.id = p.document_id
     where m.project_id = ? and m.deleted_at is null and d.deleted_at is null order by p.slot`,
    [project],
  )
  const found = new Map<string, PlacedRow[]>()
  for (const { model_id, part, slot, ids, id, name, head } of rows) {
    const key = `${model_id} ${part}`
    found.set(key, [...(found.get(key) ?? []), { slot, ids, material: { id, name, head } }])
  }
  return found
}

/** A part, or some IDs of it. */
type WhereTo = Pick<PartPlace, 'model' | 'part'> & { readonly ids?: PickedIds | undefined }

/**
 * Puts a material on a part, in place of what lies there, or on some IDs of it, which no other has then; null takes it off. Throws a
 * Problem 404 where one of them is not in the project.
 */
export const placeMaterial = (project: string, where: WhereTo, material: string | null): Promise<void> =>
  database().transaction((transaction) => place(transaction, project, where, material))

async function place(
  transaction: Knex.Transaction,
  project: string,
  where: WhereTo,
  material: string | null,
): Promise<void> {
  const { rows } = await transaction.raw<{ rows: unknown[] }>(
    `select m.id from models m join meshes l on l.sha256 = m.mesh_sha256
       where m.id = ? and m.project_id = ? and m.deleted_at is null and ? < jsonb_array_length(l.summary->'parts') for update of m`,
    [where.model, project, where.part],
  )
  const owned =
    material === null ||
    (await transaction('documents').where({ id: material, project_id: project, deleted_at: null }).first('id'))
  if (rows.length === 0 || !owned) throw new Problem(404, 'There is no such part or material in this project.')
  const { model, part, ids } = where
  const here = { model_id: model, part }
  if (ids) return placeOnIds(transaction, here, ids, material)
  await transaction('part_materials')
    .where({ ...here, slot: 0 })
    .del()
  if (material !== null) await transaction('part_materials').insert({ ...here, slot: 0, document_id: material })
}

/** Makes a material of one layer, puts it on a part and gives its id. Throws a Problem 404 where there is no such part. */
export async function placeNewMaterial(model: ModelPage, part: number): Promise<string> {
  const name = cutText(model.summary.parts[part]?.name.trim() || 'Material', LIMITS.name)
  const id = await database().transaction(async (transaction) => {
    const material: MaterialDocument = { ...emptyMaterial(name), domain: { kind: 'part' } }
    const made = await createDocument(transaction, model.project.id, material)
    await place(transaction, model.project.id, { model: model.id, part }, made)
    return made
  })
  await enqueue('picture', id, 0, {})
  return id
}

/**
 * Makes one material of those on a part, a group of layers for each, and puts it there in their place; they stay in the project. Gives
 * its id. Throws a Problem 422 where there is one only, or they cannot be one.
 */
export async function layerUp(model: ModelPage, part: number): Promise<string> {
  const id = await database().transaction(async (transaction) => {
    await transaction.raw('select id from models where id = ? for update', [model.id])
    const placed = (await placementsOf(model.id, transaction)).filter((one) => one.part === part)
    if (placed.length < 2) throw new Problem(422, 'This part has one material only; there is nothing to put together.')
    const materials: LaidOn[] = []
    for (const { document_id, ids } of placed)
      materials.push({ document: (await openDocument(document_id)).document, ...(ids ? { ids } : {}) })
    const made = await createDocument(
      transaction,
      model.project.id,
      layered(materials, model.summary.parts[part]!.name),
    )
    await transaction('part_materials').where({ model_id: model.id, part }).del()
    await transaction('part_materials').insert({ model_id: model.id, part, slot: 0, document_id: made })
    return made
  })
  await enqueue('picture', id, 0, {})
  return id
}

function layered(materials: readonly LaidOn[], part: string): MaterialDocument {
  try {
    return layeredDocument(materials, cutText(`${part}, in layers`, LIMITS.name))
  } catch (error) {
    throw error instanceof GristError ? new Problem(422, error.message) : error
  }
}

/** Numbers that a material takes over are taken from the others; who has none left goes. */
async function placeOnIds(
  transaction: Knex.Transaction,
  here: { readonly model_id: string; readonly part: number },
  ids: PickedIds,
  material: string | null,
): Promise<void> {
  const rows = await transaction('part_materials')
    .where(here)
    .whereNotNull('ids')
    .orderBy('slot')
    .select<(PlacementRow & { ids: PickedIds })[]>('part', 'slot', 'ids', 'document_id')
  const taken = new Set(ids.numbers)
  let merged = material === null
  for (const { slot, ids: own, document_id } of rows) {
    if (own.kind !== ids.kind) continue
    const isSame = document_id === material
    const numbers = isSame
      ? [...new Set([...own.numbers, ...ids.numbers])].sort((a, b) => a - b)
      : own.numbers.filter((one) => !taken.has(one))
    const row = transaction('part_materials').where({ ...here, slot })
    if (numbers.length === 0) await row.del()
    else await row.update({ ids: JSON.stringify({ ...own, numbers }) })
    merged ||= isSame
  }
  if (merged) return
  const slot = Math.max(0, ...rows.map((one) => one.slot)) + 1
  await transaction('part_materials').insert({ ...here, slot, ids: JSON.stringify(ids), document_id: material })
}

/** The parts that a material lies on, the longest there first. */
async function placesOf(document: string): Promise<PartPlace[]> {
  return database()('part_materials')
    .join('models', 'models.id', 'part_materials.model_id')
    .where({ document_id: document, 'models.deleted_at': null })
    .orderBy(['assigned_at', 'part', 'slot'])
    .select<PartPlace[]>('model_id as model', 'part')
}

/** The materials that lie on a model, with their newest revisions. */
export const materialsOn = (model: string): Promise<{ id: string; head: number }[]> =>
  database()('documents')
    .whereIn('id', database()('part_materials').where({ model_id: model }).select('document_id'))
    .where({ deleted_at: null })
    .select<{ id: string; head: number }[]>('id', 'head')

/**
 * A material as it lies on a part of its project, by default the first that it was put on; one for a tile, or that lies on none, as
 * it is. Throws a Problem 404 where the project has no such part.
 */
export async function asPlaced(id: string, document: MaterialDocument, on?: PartPlace): Promise<MaterialDocument> {
  if (document.domain.kind === 'tile') return document
  const place = on ?? (await placesOf(id))[0]
  if (!place) return document
  const model = await openModel(place.model)
  const own = await database()('documents').where({ id, project_id: model.project.id }).first<{ id: string }>('id')
  if (!own || place.part >= model.summary.parts.length)
    throw new Problem(404, 'There is no such part in this project any more.')
  const udims = udimsOf(model, place.part)
  const udim = udims.includes(place.udim) ? place.udim : udims[0]
  const baked = await bakedOf(model.id)
  return onPart(document, { ...factsOf(model, place.part, udim), baked: baked(place.part, udim) })
}

/** A copy of a project has its materials on the same parts; `copies` tells which document became which, and which model. */
export async function copyPlacements(
  transaction: ReturnType<typeof database>,
  documents: ReadonlyMap<string, string>,
  models: ReadonlyMap<string, string>,
): Promise<void> {
  const rows = await transaction('part_materials')
    .whereIn('model_id', [...models.keys()])
    .select<(PlacementRow & { model_id: string })[]>('model_id', 'part', 'slot', 'ids', 'document_id')
  const copies = rows.flatMap(({ model_id, part, slot, ids, document_id }) => {
    const document = documents.get(document_id)
    const kept = { model_id: models.get(model_id)!, part, slot, ids: ids && JSON.stringify(ids) }
    return document ? [{ ...kept, document_id: document }] : []
  })
  if (copies.length > 0) await transaction('part_materials').insert(copies)
}
