import type { Decide, EditClash, Renames } from '#core/document/edits/merge'
import { idsOf, mergeDocuments, noRenames, renameIds } from '#core/document/edits/merge'
import { freeId } from '#core/document/edits/names'
import type { MaterialDocument } from '#core/document/document'
import type { Edit } from '#core/document/patches'
import { joined, patched } from '#core/document/patches'

/** Edits put on top of what others did. */
export interface Rebased {
  readonly document: MaterialDocument
  readonly edits: readonly Edit[]
  /** What is still to be chosen; while there is anything, there are no edits. */
  readonly clashes: readonly EditClash[]
}

/**
 * Puts edits that were made on `base` on top of `theirs`. What they come to is merged with it: clashes are places where both
 * stand differently in the end, not where an edit passed by. Then each is put on top by itself, still an edit of its own.
 * What was added here under an id that others took meanwhile gets another. An undo or redo becomes a plain edit: it is no
 * longer its turn.
 */
export function rebase(
  base: MaterialDocument,
  edits: readonly Edit[],
  theirs: MaterialDocument,
  decide: Decide,
): Rebased {
  const states = [base]
  for (const edit of edits) states.push(patched(states.at(-1)!, edit.patches))
  const renames = renamesFor(states, theirs)
  const mine = states.map((state) => renameIds(state, renames))
  const whole = mergeDocuments(mine[0]!, mine.at(-1)!, theirs, decide)
  if (whole.clashes.length > 0) return { document: whole.document, edits: [], clashes: whole.clashes }

  let document = theirs
  const rebased: Edit[] = []
  for (const [i, edit] of edits.entries()) {
    const last = i === edits.length - 1
    const next = last ? whole.document : mergeDocuments(mine[i]!, mine[i + 1]!, document, decide).document
    const label =
      edit.kind === 'edit' || edit.kind === 'arrange'
        ? edit.label
        : `${edit.kind === 'undo' ? 'Undo' : 'Redo'} ${edit.label}`
    const step = joined(document, next, label)
    // The id stays: where the first sending arrived after all, it counts once.
    if (step) rebased.push({ ...step, id: edit.id, kind: edit.kind === 'arrange' ? 'arrange' : 'edit' })
    document = next
  }
  return { document, edits: rebased, clashes: [] }
}

/** The same, with mine wherever there is a clash. */
export function rebaseMine(base: MaterialDocument, edits: readonly Edit[], theirs: MaterialDocument): Rebased {
  const keys = new Set(rebase(base, edits, theirs, () => undefined).clashes.map(({ key }) => key))
  return rebase(base, edits, theirs, (key) => (keys.has(key) ? 'mine' : undefined))
}

/** New ids for what the states add to the first under ids that others have taken; what both knew is the same thing. */
function renamesFor(states: readonly MaterialDocument[], theirs: MaterialDocument): Renames {
  const renames = noRenames()
  const [first, ...later] = states.map(idsOf)
  const taken = idsOf(theirs)
  for (const kind of ['nodes', 'layers', 'taps', 'dials'] as const) {
    const ours = new Set(later.flatMap((ids) => [...ids[kind]]))
    for (const id of ours) {
      if (first![kind].has(id) || !taken[kind].has(id)) continue
      const free = freeId(id, (one) => taken[kind].has(one) || ours.has(one))
      renames[kind].set(id, free)
      taken[kind].add(free)
    }
  }
  return renames
}
