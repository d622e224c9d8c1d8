import type { MaterialDocument } from '#core/document/document'
import type { Edit } from '#core/document/patches'

/** A document as a page opens it: its newest revision, and what can be undone and redone. */
export interface OpenDocument {
  readonly id: string
  readonly projectId: string
  readonly name: string
  readonly head: number
  readonly document: MaterialDocument
  readonly undo: Edit[]
  readonly redo: Edit[]
}
