import { cutText } from '#core/cut-text'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import { LIMITS } from '#core/limits'
import { database } from '../database/database.server'
import { editOf } from '#core/document/patches'
import { createDocument, openDocument } from '../documents/documents.server'
import { copyPicture } from '../documents/pictures.server'
import { saveEdits } from '../documents/saves.server'
import { Problem } from '../http/problem.server'
import { enqueue } from '../runs/runs.server'

/** A material of one layer, to begin with. */
export const emptyMaterial = (name: string): MaterialDocument =>
  parseDocument({
    format: 'amber-grist/material',
    version: 2,
    name,
    domain: { kind: 'tile', metres: [1, 1] },
    layers: [
      {
        kind: 'layer',
        id: 'base',
        name: 'Base',
        cells: { colour: { source: { value: '#9a938a' } }, roughness: { source: { value: 0.7 } } },
      },
    ],
  })

/** A new material in a project. */
export async function addDocument(projectId: string, document: MaterialDocument): Promise<string> {
  const project = await database()('projects').where({ id: projectId, deleted_at: null }).first('id')
  if (!project) throw new Problem(404, 'There is no such project. It may have been deleted.')
  const id = await database().transaction((transaction) => createDocument(transaction, projectId, document))
  await enqueue('picture', id, 0, {})
  return id
}

/** A copy of a document in its own project, as it is now. */
export async function duplicateDocument(from: string): Promise<string> {
  const { projectId, document } = await openDocument(from)
  const name = `${cutText(document.name, LIMITS.name - 7)}, copy`
  const to = await database().transaction(async (transaction) => {
    const copy = await createDocument(transaction, projectId, { ...document, name })
    await transaction.raw('update documents set tags = (select tags from documents where id = ?) where id = ?', [
      from,
      copy,
    ])
    return copy
  })
  await copyPicture(from, to)
  return to
}

/** The most tags of a material, and the most letters of one. */
const TAGS = { most: 12, letters: 32 }

/** Sets the words by which a material is found, from a text with commas; each counts once, however it is written. */
export async function setTags(id: string, text: string): Promise<void> {
  const words = text.split(',').map((word) => cutText(word.trim().replace(/\s+/g, ' '), TAGS.letters))
  const tags = [...new Map(words.filter(Boolean).map((word) => [word.toLowerCase(), word])).values()]
  const count = await database()('documents')
    .where({ id, deleted_at: null })
    .update({ tags: tags.slice(0, TAGS.most) })
  if (count === 0) throw new Problem(404, 'There is no such material. It may have been deleted.')
}

/** Tries where somebody saves at the same time. */
const RENAME_TRIES = 5

/** Gives a material another name: an edit like any other, which its undo takes back. */
export async function renameDocument(id: string, name: string): Promise<void> {
  for (let tries = 1; ; tries++) {
    const { document, head } = await openDocument(id)
    const edit = editOf(document, 'Rename the material', (draft) => void (draft.name = name))
    if (!edit) return
    try {
      await saveEdits(id, { base: head, edits: [edit] })
      return
    } catch (error) {
      if (!(error instanceof Problem && error.status === 409) || tries === RENAME_TRIES) throw error
    }
  }
}

export async function setDocumentDeleted(id: string, deleted: boolean): Promise<void> {
  const count = await database()('documents')
    .where({ id })
    .update({ deleted_at: deleted ? database().fn.now() : null })
  if (count === 0) throw new Problem(404, 'There is no such document.')
}
