import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import { ask } from './ask'

/** Documents by their addresses; a revision never changes. */
const documents = new Map<string, Promise<MaterialDocument>>()

/** A material as a revision has it; asked for once. Throws, in words, where it cannot be read. */
export function documentAt(id: string, revision: number): Promise<MaterialDocument> {
  const address = `/documents/${id}/revisions/${revision}`
  let found = documents.get(address)
  if (!found) {
    found = read(address)
    documents.set(address, found)
    found.catch(() => documents.delete(address))
  }
  return found
}

async function read(address: string): Promise<MaterialDocument> {
  const response = await ask(address).catch(() => {
    throw new Error('Cannot reach the server.')
  })
  if (!response.ok) throw new Error(((await response.json()) as { error: string }).error)
  return parseDocument(await response.json())
}
