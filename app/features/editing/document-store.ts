import { v4 as uuid } from 'uuid'
import { createStore } from 'zustand/vanilla'
import type { MaterialDocument } from '#core/graph/document'
import { LIMITS } from '#core/limits'
import type { Edit, Stacks } from './patches'
import { editOf, joined, overlap, patched } from './patches'

/** How edits fare, in a word; the document's screen says it to people. */
export type SaveState = 'saved' | 'saving' | 'away' | 'clash' | 'refused'

export interface Editing {
  /** The document as it is on screen. */
  readonly document: MaterialDocument
  /** The newest revision that is known, and the document there. */
  readonly head: number
  readonly base: MaterialDocument
  /** Edits that the server has not confirmed yet. */
  readonly pending: readonly Edit[]
  readonly undo: readonly Edit[]
  readonly redo: readonly Edit[]
  readonly save: SaveState
  /** What the server said where it refused an edit. */
  readonly problem: string | null
  /** A gesture under way: where it started. */
  readonly gesture: { label: string; from: MaterialDocument } | null
}

/** What the store needs from outside; tests bring their own. */
export interface EditingHost {
  /** Sends edits. Rejects where the server cannot be reached. */
  send(base: number, edits: readonly Edit[]): Promise<{ status: number; head?: number; error?: string }>
  /** Edits after a revision. Rejects where the server cannot be reached. */
  since(head: number): Promise<{ head: number; edits: Edit[] }>
  /** Keeps unsent edits over a closed tab. */
  keep(unsent: { head: number; edits: readonly Edit[] } | null): void
  /** Calls back after some time. */
  later(work: () => void): void
}

export interface OpenedDocument {
  readonly head: number
  readonly document: MaterialDocument
  readonly undo: readonly Edit[]
  readonly redo: readonly Edit[]
}

/**
 * One open document: edits show at once, are sent in order, and wait while the server is away. What others saved
 * comes in by `remote`; where both touched the same part, the user chooses, nothing is overwritten silently.
 */
export function openEditing(opened: OpenedDocument, host: EditingHost) {
  const store = createStore<Editing>(() => ({
    ...opened,
    base: opened.document,
    pending: [],
    save: 'saved',
    problem: null,
    gesture: null,
  }))
  const { getState: get, setState: set } = store
  let flushing = false
  /** The stacks at `base`, that is without what is pending. */
  let confirmed: Stacks<Edit> = { undo: [...opened.undo], redo: [...opened.redo] }

  const keep = (): void => {
    const { head, pending } = get()
    host.keep(pending.length ? { head, edits: pending } : null)
  }

  function push(edit: Edit): void {
    const { document, pending, undo, redo } = get()
    const stacks = moved({ undo, redo }, edit)
    set({
      document: patched(document, edit.patches),
      pending: [...pending, edit],
      ...stacks,
      save: get().save === 'saved' ? 'saving' : get().save,
    })
    keep()
    void flush()
  }

  async function flush(): Promise<void> {
    if (flushing || get().pending.length === 0 || ['clash', 'refused'].includes(get().save)) return
    flushing = true
    try {
      const { head, pending } = get()
      const batch = pending.slice(0, LIMITS.save.edits)
      set({ save: 'saving' })
      const answer = await host.send(head, batch)
      if (answer.status === 200) {
        confirmed = batch.reduce(moved, confirmed)
        set((now) => ({
          head: answer.head!,
          base: all(now.base, batch),
          pending: now.pending.slice(batch.length),
          save: now.pending.length > batch.length ? 'saving' : 'saved',
        }))
      } else if (answer.status !== 409 || !(await takeIn()))
        // Also where the document stands as we know it and the edit still has no place in it.
        set({ save: 'refused', problem: answer.error ?? 'The server refused the edit.' })
      keep()
    } catch {
      set({ save: 'away' })
      host.later(() => void flush())
      return
    } finally {
      flushing = false
    }
    void flush()
  }

  /** Takes in what others saved; false where there was nothing. Rejects where the server cannot be reached. */
  async function takeIn(): Promise<boolean> {
    const { head: known } = get()
    const { head, edits } = await host.since(known)
    if (head === known) return false
    const { base, pending, document, gesture } = get()
    // Our own edits whose answer got lost come back with others'.
    const back = new Set(edits.map((edit) => edit.id))
    const mine = pending.filter((edit) => !back.has(edit.id))
    const theirs = edits.filter((edit) => !pending.some((one) => one.id === edit.id))
    const theirBase = all(base, edits)
    confirmed = edits.reduce(moved, confirmed)
    const steps = mine.some((edit) => edit.kind !== 'edit') && theirs.length > 0
    if (mine.length > 0 && (steps || overlap(mine, theirs))) {
      set({ head, base: theirBase, pending: mine, save: 'clash' })
      return true
    }
    const next = all(theirBase, mine)
    // A drag under way goes on from what is there now.
    const dragged = gesture && joined(gesture.from, document, gesture.label)
    set({
      head,
      base: theirBase,
      pending: mine,
      document: dragged ? patched(next, dragged.patches) : next,
      gesture: gesture && { ...gesture, from: next },
      ...mine.reduce(moved, confirmed),
      save: mine.length ? 'saving' : 'saved',
    })
    return true
  }

  /** Back to what is saved, and from there on with `next`. */
  function settle(next: Edit | null): void {
    set({ document: get().base, pending: [], gesture: null, save: 'saved', problem: null, ...confirmed })
    keep()
    if (next) push(next)
  }

  /** Ends a drag: what it came to is one edit. */
  function drop(): void {
    const { gesture, document } = get()
    if (!gesture) return
    set({ gesture: null, document: gesture.from })
    const edit = joined(gesture.from, document, gesture.label)
    if (edit) push(edit)
  }

  return {
    store,
    /** Changes the document. Nothing happens where the change changes nothing. */
    edit(label: string, change: (draft: MaterialDocument) => void): void {
      drop()
      const edit = editOf(get().document, label, change)
      if (edit) push(edit)
    },
    /** A drag: shown while it goes on, one edit when it ends. */
    drag(label: string, change: (draft: MaterialDocument) => void): void {
      const { document, gesture } = get()
      const edit = editOf(document, label, change)
      if (!edit) return
      set({ gesture: gesture ?? { label, from: document }, document: patched(document, edit.patches) })
    },
    drop,
    /** Makes the document another one, as one edit: what returning to a state is. */
    replace(label: string, next: MaterialDocument): void {
      drop()
      const edit = joined(get().document, next, label)
      if (edit) push(edit)
    },
    undo: () => step('undo'),
    redo: () => step('redo'),
    /** Somebody saved: `head` is the newest revision. */
    remote(head: number): void {
      if (head <= get().head || get().save === 'clash') return
      // Saving and taking in happen one after the other: each goes by the head that it began with.
      if (flushing) return host.later(() => this.remote(head))
      flushing = true
      void takeIn()
        .catch(() => host.later(() => this.remote(head)))
        .finally(() => {
          flushing = false
          void flush()
        })
    },
    /** Sends what waits, as after a time without a network. */
    retry: () => void flush(),
    /** Edits left over from a tab that was closed: put on top where they fit, else the user chooses. */
    async adopt(unsent: { head: number; edits: readonly Edit[] }): Promise<void> {
      const since = await host.since(unsent.head)
      const known = new Set(since.edits.map((edit) => edit.id))
      const mine = unsent.edits.filter((edit) => !known.has(edit.id))
      const follows =
        since.edits.length === 0 || (mine.every((edit) => edit.kind === 'edit') && !overlap(mine, since.edits))
      if (follows) return mine.forEach(push)
      try {
        set({
          document: all(get().document, mine),
          pending: mine,
          save: 'clash',
        })
      } catch {
        set({ save: 'refused', problem: 'Edits of a closed tab no longer fit this document.' })
      }
      keep()
    },
    /** After a clash: what was done here goes on top of what others did, as one edit that can be undone. */
    keepMine: () => {
      const { base, document, pending } = get()
      const mine = structuredClone(base) as unknown as Record<string, unknown>
      const touched = new Set(pending.flatMap((edit) => edit.patches.map(({ path }) => String(path[0]))))
      for (const key of touched) mine[key] = (document as unknown as Record<string, unknown>)[key]
      settle(joined(base, mine, 'Kept over another tab’s'))
    },
    /** After a clash or a refusal: what was done here and not saved is given up. */
    dropMine: () => settle(null),
  }

  function step(kind: 'undo' | 'redo'): void {
    drop()
    const about = get()[kind].at(-1)
    if (!about) return
    const [patches, inverse] = kind === 'undo' ? [about.inverse, about.patches] : [about.patches, about.inverse]
    push({ id: uuid(), kind, of: about.id, label: about.label, patches, inverse })
  }
}

export type EditingControl = ReturnType<typeof openEditing>

const all = (document: MaterialDocument, edits: readonly Edit[]): MaterialDocument =>
  edits.reduce((at, edit) => patched(at, edit.patches), document)

/** The stacks after one more entry of the history. */
function moved({ undo, redo }: Stacks<Edit>, edit: Edit): Stacks<Edit> {
  const top = edit.kind === 'undo' ? undo.at(-1) : redo.at(-1)
  if (edit.kind === 'edit') return { undo: [...undo, edit], redo: [] }
  if (!top || top.id !== edit.of) return { undo, redo }
  return edit.kind === 'undo'
    ? { undo: undo.slice(0, -1), redo: [...redo, top] }
    : { undo: [...undo, top], redo: redo.slice(0, -1) }
}
