import type { MaterialDocument } from '#core/document/document'
import { patchesBetween } from '#core/document/patches'
import type { DocumentUpdate } from '../../../runtime/browser/protocol'

/** The page's end of a document that a worker follows: whole at first, then what changed. */
export class SentDocument {
  private version = 0
  private last: MaterialDocument | null = null

  /** What the worker has to be told to have `document`. Messages arrive in order, so it has what was sent before. */
  update(document: MaterialDocument): DocumentUpdate {
    const { last, version } = this
    this.last = document
    if (last === null) return { version: ++this.version, document }
    if (last === document) return { version, since: version, patches: [] }
    const patches = patchesBetween(last, document)
    if (patches.length === 0) return { version, since: version, patches }
    return { version: ++this.version, since: version, patches }
  }

  /** The worker has lost it: the next update is the whole. */
  forget(): void {
    this.last = null
  }
}
