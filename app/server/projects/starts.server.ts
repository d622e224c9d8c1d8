import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import { STARTS } from '#demo/starts/index'
import type { StartCard } from '../../contracts/start'
import { database } from '../database/database.server'
import { documentOfPicture } from '#core/document/document-of-picture'
import { documentOfStrands } from '#core/document/document-of-strands'
import { findAsset } from '../assets/assets.server'
import { openDocument } from '../documents/documents.server'
import { Problem } from '../http/problem.server'
import { emptyMaterial } from './materials.server'

/** What a new material may begin with: plain, what ships, and copies of the demo's where it was loaded. */
export async function listStarts(): Promise<StartCard[]> {
  const demo = await database()('documents')
    .join('projects', 'projects.id', 'documents.project_id')
    .leftJoin('pictures', 'pictures.document_id', 'documents.id')
    .where('projects.origin', 'like', 'demo:%')
    .where({ 'documents.deleted_at': null, 'projects.deleted_at': null })
    .orderBy('documents.created_at')
    .select<{ id: string; name: string; revision: number | null }[]>(
      'documents.id',
      'documents.name',
      'pictures.revision',
    )
  return [
    { id: 'plain', name: 'Plain', about: 'one layer of one colour', picture: null },
    ...STARTS.map(({ id, about, document: { name } }) => ({ id, name, about, picture: `/starts/${id}.webp` })),
    ...demo.map(({ id, name, revision }) => ({
      id: `copy:${id}`,
      name,
      about: 'a copy from the demo',
      picture: revision === null ? null : `/documents/${id}/picture.png?r=${revision}`,
    })),
  ]
}

/** A new material of a start, under a name or its own. Throws 404 where there is no such start. */
export async function materialFrom(start: string, name?: string): Promise<MaterialDocument> {
  if (start === 'plain') return emptyMaterial(name ?? 'Material 1')
  const named = (document: MaterialDocument): MaterialDocument => ({ ...document, name: name ?? document.name })
  if (start.startsWith('copy:')) return named((await openDocument(start.slice(5))).document)
  const found = STARTS.find(({ id }) => id === start)
  if (!found) throw new Problem(404, 'There is no such start.')
  return named(parseDocument(found.document))
}

/** What one image of the library makes: a layered material, or strand cards of its cut-out. Throws a Problem 404. */
export async function materialOfImage(sha256: string, as: 'material' | 'strands'): Promise<MaterialDocument> {
  const found = await findAsset(sha256)
  if (!found) throw new Problem(404, 'There is no such image.')
  const { width, height, channels } = found
  const name = found.name.replace(/\.[a-z0-9]+$/i, '') || 'Picture'
  const image = `sha256:${sha256}`
  return as === 'strands'
    ? documentOfStrands({ image, name, width, height, isInAlpha: channels % 2 === 0 })
    : documentOfPicture({ image, name, width, height, isGrey: channels < 3 })
}
