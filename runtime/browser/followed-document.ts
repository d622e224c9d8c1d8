import type { MaterialDocument } from '#core/document/document'
import { patched } from '#core/document/patches'
import type { DocumentUpdate } from './protocol'

/** The worker's end of a document that a page sends as patches. */
export class FollowedDocument {
  private held = -1
  private document: MaterialDocument | null = null

  /** Which version is here; -1 at first. */
  get version(): number {
    return this.held
  }

  /** The document after an update; null where its patches go by a version that is not here. */
  receive(update: DocumentUpdate): MaterialDocument | null {
    if ('document' in update) this.document = update.document
    else {
      if (this.document === null || update.since !== this.held) return null
      if (update.patches.length > 0) this.document = patched(this.document, update.patches)
    }
    this.held = update.version
    return this.document
  }
}
