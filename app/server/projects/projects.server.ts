import type { ProjectCard, ProjectPage } from '../../contracts/project'
import type { Knex } from 'knex'
import { cutText } from '#core/cut-text'
import type { MaterialDocument } from '#core/document/document'
import { LIMITS } from '#core/limits'
import { database } from '../database/database.server'
import { createDocument, openDocument } from '../documents/documents.server'
import { copyMapSets } from '../map-sets/map-sets.server'
import { copyModels } from '../models/models.server'
import { copyPlacements } from '../placements/placements.server'
import { copyPackings } from '../packings/packings.server'
import { copyPicture } from '../documents/pictures.server'
import { Problem } from '../http/problem.server'
import { enqueue } from '../runs/runs.server'
import { emptyMaterial } from './materials.server'
import { copyValues } from './values.server'

/** Projects, last changed first. */
export async function listProjects(): Promise<ProjectCard[]> {
  const { rows } = await database().raw<{ rows: ProjectCard[] }>(`
    select p.id, p.name, greatest(p.changed_at, inside.changed_at) as "changedAt", inside.documents,
      (select count(*)::int from deliveries v where v.project_id = p.id) as deliveries,
      (select count(*)::int from runs r where r.project_id = p.id and r.kind = 'bake' and r.state in ('queued', 'running')) as running,
      (select count(*)::int from runs r where r.project_id = p.id and r.kind = 'bake' and r.state = 'failed'
         and r.ended_at > now() - interval '7 days') as failed,
      shown.document_id as "pictureOf", shown.revision as "pictureRevision"
    from projects p
    cross join lateral (
      select count(*)::int as documents, max(d.changed_at) as changed_at
      from documents d where d.project_id = p.id and d.deleted_at is null and d.listed
    ) inside
    left join lateral (
      select s.document_id, s.revision from pictures s join documents d on d.id = s.document_id
      where d.project_id = p.id and d.deleted_at is null and d.listed order by d.created_at limit 1
    ) shown on true
    where p.deleted_at is null order by "changedAt" desc`)
  return rows
}

export async function openProject(id: string): Promise<ProjectPage> {
  const project = await database()('projects')
    .where({ id, deleted_at: null })
    .first<{ id: string; name: string } | undefined>('id', 'name')
  if (!project) throw new Problem(404, 'There is no such project. It may have been deleted.')
  const { rows: documents } = await database().raw<{ rows: ProjectPage['documents'] }>(
    `select d.id, d.name, d.head, d.changed_at as "changedAt", d.summary->'metres' as metres, coalesce(d.summary->>'over', 'tile') as over,
       (d.summary->>'layers')::int as layers, (d.summary->>'nodes')::int as nodes, s.revision as "pictureRevision", d.tags
     from documents d left join pictures s on s.document_id = d.id
     where d.project_id = ? and d.deleted_at is null and d.listed order by d.created_at`,
    [id],
  )
  return { ...project, documents }
}

const cleanName = (name: string): string => {
  const clean = cutText(name.trim(), LIMITS.name)
  if (clean === '') throw new Problem(400, 'A name is needed.')
  return clean
}

/** A new project with one material in it: an empty tile, or what is given. */
export async function createProject(
  name: string,
  material: MaterialDocument = emptyMaterial('Material 1'),
): Promise<string> {
  const clean = cleanName(name)
  const { id, document } = await database().transaction(async (transaction) => {
    const id = await insertProject(transaction, clean)
    return { id, document: await createDocument(transaction, id, material) }
  })
  await enqueue('picture', document, 0, {})
  return id
}

async function insertProject(transaction: Knex.Transaction, name: string): Promise<string> {
  const [row] = (await transaction('projects').insert({ name }).returning('id')) as { id: string }[]
  return row!.id
}

export async function renameProject(id: string, name: string): Promise<void> {
  const count = await database()('projects')
    .where({ id, deleted_at: null })
    .update({ name: cleanName(name), changed_at: database().fn.now() })
  if (count === 0) throw new Problem(404, 'There is no such project. It may have been deleted.')
}

/** A copy with the documents and packings as they are now; histories and deliveries stay with the original. */
export async function duplicateProject(id: string): Promise<string> {
  const { name, documents } = await openProject(id)
  const copies: { from: string; to: string }[] = []
  const copy = await database().transaction(async (transaction) => {
    const copy = await insertProject(transaction, cleanName(`${cutText(name, LIMITS.name - 7)}, copy`))
    await copyPackings(transaction, id, copy)
    await copyValues(transaction, id, copy)
    const models = await copyModels(transaction, id, copy)
    for (const { id: from } of documents)
      copies.push({ from, to: await createDocument(transaction, copy, (await openDocument(from)).document) })
    const made = new Map(copies.map(({ from, to }) => [from, to]))
    await copyPlacements(transaction, made, models)
    await copyMapSets(transaction, id, copy, made)
    return copy
  })
  for (const { from, to } of copies) await copyPicture(from, to)
  return copy
}

/** Out of sight; `undeleteProject` brings it back. */
export async function deleteProject(id: string): Promise<void> {
  const count = await database()('projects').where({ id, deleted_at: null }).update({ deleted_at: database().fn.now() })
  if (count === 0) throw new Problem(404, 'There is no such project. It may have been deleted.')
}

export async function undeleteProject(id: string): Promise<void> {
  const count = await database()('projects').where({ id }).whereNotNull('deleted_at').update({ deleted_at: null })
  if (count === 0) throw new Problem(404, 'There is nothing to bring back.')
}
