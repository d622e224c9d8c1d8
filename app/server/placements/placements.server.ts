import type { PartFacts } from '#core/document/domain'
import { onPart } from '#core/document/domain'
import type { MaterialDocument } from '#core/document/document'
import { partFactsOf } from '#core/mesh/part-facts'
import type { PlacedMaterial, PlacedOn, ProjectParts, PartPlace, ProjectPart } from '../../contracts/parts'
import type { ModelPage } from '../../contracts/model'
import { openDocument } from '../documents/documents.server'
import { database } from '../database/database.server'
import { Problem } from '../http/problem.server'
import { modelsOf, openModel } from '../models/models.server'
import { meshDataName } from '../models/mesh-data.server'

/** The first tile of UVs: materials are evaluated in it; others come with UDIM. */
const TILE = 1001

/** Models of a project with the materials that lie on their parts. */
export async function projectParts(project: string): Promise<ProjectParts[]> {
  const placed = await placedIn(project)
  const found: ProjectParts[] = []
  for (const id of await modelsOf(project)) {
    const model = await openModel(id)
    found.push({
      id,
      name: model.name,
      mesh: model.mesh,
      uvSet: model.settings.uvSet,
      parts: model.summary.parts.map((_, part) => partOfModel(model, part, placed.get(`${id} ${part}`) ?? null)),
    })
  }
  return found
}

function partOfModel(model: ModelPage, part: number, material: ProjectPart['material']): ProjectPart {
  const { name, triangles } = model.summary.parts[part]!
  const stale = model.data.filter((one) => one.part === part && one.udim === TILE && !one.fresh)
  const drafts = stale.filter(({ width }) => width < model.settings.size)
  const kindsOf = (data: typeof stale): string[] => data.map(({ kind }) => kind)
  const facts = factsOf(model, part)
  return { part, name, triangles, material, stale: kindsOf(stale), drafts: kindsOf(drafts), facts }
}

function factsOf(model: ModelPage, part: number): PartFacts {
  const { name, mesh, summary, settings, data } = model
  const here = data.filter((one) => one.part === part && one.udim === TILE)
  const normal = here.find(({ kind }) => kind === 'normal')
  const missed = normal && model.high ? { missed: normal.missed / normal.width ** 2 } : {}
  return partFactsOf({
    ...missed,
    ...{ summary, mesh, part },
    name: summary.parts.length === 1 ? name : `${name}, ${summary.parts[part]!.name}`,
    uvSet: settings.uvSet,
    data: Object.fromEntries(here.map(({ kind, sha256 }) => [kind, meshDataName(sha256)])),
  })
}

/** A material with the newest of its revisions, on each part of a model that has one. */
export async function dressedParts(model: ModelPage): Promise<{ part: number; document: MaterialDocument }[]> {
  const rows = await database()('part_materials')
    .join('documents', 'documents.id', 'part_materials.document_id')
    .where({ model_id: model.id, 'documents.deleted_at': null })
    .orderBy('part')
    .select<{ part: number; document_id: string }[]>('part', 'document_id')
  const found: { part: number; document: MaterialDocument }[] = []
  for (const { part, document_id } of rows) {
    if (part >= model.summary.parts.length) continue
    found.push({ part, document: onPart((await openDocument(document_id)).document, factsOf(model, part)) })
  }
  return found
}

/** Materials for parts of a project, by name; and which lies on which part of a model. */
export async function placedOn(model: Pick<ModelPage, 'id' | 'project'>): Promise<PlacedOn> {
  const materials = await database()('documents')
    .where({ project_id: model.project.id, deleted_at: null })
    .whereRaw(`summary->>'over' = 'part'`)
    .orderBy('name')
    .select<{ id: string; name: string }[]>('id', 'name')
  const rows = await database()('part_materials')
    .where({ model_id: model.id })
    .select<{ part: number; document_id: string }[]>('part', 'document_id')
  return { materials, onPart: Object.fromEntries(rows.map(({ part, document_id }) => [part, document_id])) }
}

async function placedIn(project: string): Promise<Map<string, PlacedMaterial>> {
  const { rows } = await database().raw<{ rows: (PlacedMaterial & { model_id: string; part: number })[] }>(
    `select p.model_id, p.part, d.id, d.name, d.head from part_materials p join models m on m.id = p.model_id
     join documents d on d.id = p.document_id where m.project_id = ? and m.deleted_at is null and d.deleted_at is null`,
    [project],
  )
  return new Map(rows.map(({ model_id, part, id, name, head }) => [`${model_id} ${part}`, { id, name, head }]))
}

/** Puts a material on a part, in place of what lies there; null takes it off. Throws a Problem 404 where one of them is not in the project. */
export async function placeMaterial(
  project: string,
  { model, part }: PartPlace,
  material: string | null,
): Promise<void> {
  if (material === null) {
    const own = database()('models').where({ project_id: project }).select('id')
    await database()('part_materials').where({ model_id: model, part }).whereIn('model_id', own).del()
    return
  }
  const { rowCount } = await database().raw<{ rowCount: number }>(
    `insert into part_materials (model_id, part, document_id)
     select m.id, ?, d.id from models m join meshes l on l.sha256 = m.mesh_sha256
     join documents d on d.id = ? and d.project_id = m.project_id and d.deleted_at is null
     where m.id = ? and m.project_id = ? and m.deleted_at is null and ? < jsonb_array_length(l.summary->'parts')
     on conflict (model_id, part) do update set document_id = excluded.document_id, assigned_at = now()`,
    [part, material, model, project, part],
  )
  if (rowCount === 0) throw new Problem(404, 'There is no such part or material in this project.')
}

/** The parts that a material lies on, the longest there first. */
async function placesOf(document: string): Promise<PartPlace[]> {
  return database()('part_materials')
    .join('models', 'models.id', 'part_materials.model_id')
    .where({ document_id: document, 'models.deleted_at': null })
    .orderBy(['assigned_at', 'part'])
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
  return onPart(document, factsOf(model, place.part))
}

/** A copy of a project has its materials on the same parts; `copies` tells which document became which, and which model. */
export async function copyPlacements(
  transaction: ReturnType<typeof database>,
  documents: ReadonlyMap<string, string>,
  models: ReadonlyMap<string, string>,
): Promise<void> {
  const rows = await transaction('part_materials')
    .whereIn('model_id', [...models.keys()])
    .select<{ model_id: string; part: number; document_id: string }[]>('model_id', 'part', 'document_id')
  const copies = rows.flatMap(({ model_id, part, document_id }) => {
    const document = documents.get(document_id)
    return document ? [{ model_id: models.get(model_id)!, part, document_id: document }] : []
  })
  if (copies.length > 0) await transaction('part_materials').insert(copies)
}
