import type { Decide, EditClash, Renames } from '#core/edits/merge'
import { idsOf, mergeDocuments, noRenames, renameIds } from '#core/edits/merge'
import { freeId } from '#core/edits/names'
import type { MaterialDocument } from '#core/graph/document'
import type { Edit } from './patches'
import { joined, patched } from './patches'

/** Edits put on top of what others did. */
export interface Rebased {
  readonly document: MaterialDocument
  readonly edits: readonly Edit[]
  /** What is still to be chosen, each place once with the value it came to here. */
  readonly clashes: readonly EditClash[]
}

/**
 * Puts edits that were made on `base` on top of `theirs`, one by one, each still an edit of its own. What was added here
 * under an id that others took meanwhile gets another. An undo or redo becomes a plain edit: it is no longer its turn.
 */
export function rebase(
  base: MaterialDocument,
  edits: readonly Edit[],
  theirs: MaterialDocument,
  decide: Decide,
): Rebased {
  let before = base
  let document = theirs
  const renames = noRenames()
  const known = idsOf(base)
  const clashes = new Map<string, EditClash>()
  const rebased: Edit[] = []
  for (const edit of edits) {
    const after = patched(before, edit.patches)
    renameTaken(renames, known, before, after, document)
    const merged = mergeDocuments(renameIds(before, renames), renameIds(after, renames), document, decide)
    for (const clash of merged.clashes) clashes.set(clash.key, clash)
    const label = edit.kind === 'edit' ? edit.label : `${edit.kind === 'undo' ? 'Undo' : 'Redo'} ${edit.label}`
    const next = joined(document, merged.document, label)
    // The id stays: where the first sending arrived after all, it counts once.
    if (next) rebased.push({ ...next, id: edit.id })
    before = after
    document = merged.document
  }
  return { document, edits: rebased, clashes: [...clashes.values()] }
}

/** Finds new ids for what `after` added to `before` under ids that others have taken; what both knew is the same thing. */
function renameTaken(
  renames: Renames,
  known: ReturnType<typeof idsOf>,
  before: MaterialDocument,
  after: MaterialDocument,
  theirs: MaterialDocument,
): void {
  const [had, has, taken] = [idsOf(before), idsOf(after), idsOf(theirs)]
  for (const kind of ['nodes', 'layers', 'taps', 'dials'] as const)
    for (const id of has[kind])
      if (!had[kind].has(id) && taken[kind].has(id) && !known[kind].has(id) && !renames[kind].has(id))
        renames[kind].set(
          id,
          freeId(id, (one) => taken[kind].has(one) || has[kind].has(one)),
        )
}
