import { v4 as uuid } from 'uuid'
import { createStore } from 'zustand/vanilla'
import type { Choice, EditClash } from '#core/document/edits/merge'
import { mergeDocuments } from '#core/document/edits/merge'
import { withPlacesOf } from '#core/document/edits/nodes'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import { LIMITS } from '#core/limits'
import type { Edit, Stacks } from '#core/document/patches'
import { editOf, joined, patched } from '#core/document/patches'
import { rebase, rebaseMine } from './rebase'
import { saveLoop } from './save-loop'

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
  /** Places that others changed too, and that are still to be chosen. */
  readonly clashes: readonly EditClash[]
  /** The document as it was when what others saved last came in; null where nothing did. */
  readonly fromOthers: MaterialDocument | null
  /** A gesture under way: where it started. */
  readonly gesture: { label: string; from: MaterialDocument } | null
}

/** What the store needs from outside; tests bring their own. */
export interface EditingHost {
  /** Sends edits. Rejects where the server cannot be reached. */
  send(base: number, edits: readonly Edit[]): Promise<{ status: number; head?: number; error?: string }>
  /** Edits after a revision, all of them. Rejects where the server cannot be reached. */
  since(head: number): Promise<{ head: number; edits: Edit[] }>
  /** Names a revision. Rejects where the server cannot be reached. */
  name(revision: number, name: string): Promise<void>
  /** Keeps unsent edits over a closed tab. */
  storeUnsent(unsent: { head: number; edits: readonly Edit[] } | null): void
  /** Calls back after some time. */
  later(work: () => void): void
}

/** What an undo or redo came to. */
export interface Step {
  /** The edit's label. */
  readonly label: string
  /** Whether somebody else made that edit, while this document was open here. */
  readonly byOthers: boolean
  /** False where others have changed the same since; then nothing was done. */
  readonly done: boolean
  /** Whether it lies beneath newer edits of others, which stay. */
  readonly beneath: boolean
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
    clashes: [],
    fromOthers: null,
    gesture: null,
  }))
  const { getState: get, setState: set } = store
  /** The stacks at `base`, that is without what is pending. */
  let confirmed: Stacks<Edit> = { undo: [...opened.undo], redo: [...opened.redo] }
  /** What pending edits were made on, and what has been chosen, while a clash is open. */
  let open: {
    head: number
    base: MaterialDocument
    choices: Map<string, Choice>
    /** Whether others saved. */
    foreign: boolean
  } | null = null
  /** Revisions that get a name once they are saved, by the id of their edit. */
  const toName = new Map<string, string>()
  /** Edits that others made while the document was open here: undo takes back one's own first. */
  const others = new Set<string>()
  /** Own edits that were taken back beneath others', and the edits that did so: undo passes them by. */
  const passed = new Set<string>()
  /** What took own edits back beneath others', newest last, for redo. */
  let beneath: { readonly of: Edit; readonly by: Edit }[] = []
  /** The same answer, one after the other. */
  let failing = { answer: '', times: 0 }

  const storeUnsent = (): void => {
    const { head, pending } = get()
    host.storeUnsent(pending.length ? { head: open?.head ?? head, edits: pending } : null)
  }

  /** `after` is the document that the edit leads to, where it is there already. */
  function push(edit: Edit, after = patched(get().document, edit.patches)): void {
    const { pending, undo, redo } = get()
    const stacks = moved({ undo, redo }, edit)
    set({
      gesture: null,
      document: after,
      pending: [...pending, edit],
      ...stacks,
      save: get().save === 'saved' ? 'saving' : get().save,
    })
    storeUnsent()
    saves.run()
  }

  const saves = saveLoop({
    async step() {
      const { head, pending, save } = get()
      if (pending.length === 0 || ['clash', 'refused'].includes(save)) return false
      const batch = pending.slice(0, LIMITS.save.edits)
      set({ save: 'saving' })
      const answer = await host.send(head, batch)
      if (answer.status === 200) {
        failing = { answer: '', times: 0 }
        batch.forEach((edit, i) => nameLater(edit.id, answer.head! - batch.length + 1 + i))
        confirmed = batch.reduce(moved, confirmed)
        set((now) => ({
          head: answer.head!,
          base: all(now.base, batch),
          pending: now.pending.slice(batch.length),
          save: now.pending.length > batch.length ? 'saving' : 'saved',
        }))
      } else if (isPassing(answer.status) || (answer.status >= 500 && !isThird(answer))) throw new Error('not now')
      else if (answer.status !== 409 || !(await catchUp()))
        // Also where the document stands as we know it and the edit still has no place in it.
        set({ save: 'refused', problem: answer.error ?? `The server answered ${answer.status}.` })
      storeUnsent()
      return true
    },
    away: () => set({ save: 'away' }),
    later: host.later,
  })

  /** Takes in what others saved; false where there was nothing. Rejects where the server cannot be reached. */
  async function catchUp(): Promise<boolean> {
    const { head: known } = get()
    const { head, edits } = await host.since(known)
    if (head === known) return false
    const { base, pending } = get()
    // Our own edits whose answer got lost come back before others'.
    const own = edits.filter((edit) => pending.some(({ id }) => id === edit.id))
    const mine = pending.filter((edit) => !own.some(({ id }) => id === edit.id))
    for (const edit of edits) if (!own.includes(edit)) others.add(edit.id)
    own.forEach((edit) => nameLater(edit.id, known + 1 + edits.indexOf(edit)))
    confirmed = edits.reduce(moved, confirmed)
    set({ head, base: all(base, edits), pending: mine })
    const foreign = own.length < edits.length
    open = { head: known + own.length, base: all(base, own), choices: new Map(), foreign }
    // Where only our own came back, what is pending follows as it is: an undo stays one.
    if (own.length === edits.length) goOn(all(get().base, mine), mine)
    else settleClashes()
    return true
  }

  /** Goes on with edits on top of what is saved. A drag under way goes on from what is there now. */
  function goOn(next: MaterialDocument, edits: readonly Edit[]): void {
    const { document, gesture } = get()
    const dragged = gesture && joined(gesture.from, document, gesture.label)
    const shown = dragged ? rebaseMine(gesture.from, [dragged], next).document : next
    const foreign = open?.foreign ?? false
    open = null
    set({
      document: shown,
      ...(foreign ? { fromOthers: shown } : {}),
      gesture: gesture && { ...gesture, from: next },
      pending: edits,
      clashes: [],
      save: edits.length ? 'saving' : 'saved',
      ...edits.reduce(moved, confirmed),
    })
    storeUnsent()
  }

  /**
   * Puts the pending edits on top of what others did, as far as it has been chosen. Where theirs is taken, what was done here
   * is saved all the same, as a named state, and then taken back.
   */
  function settleClashes(): void {
    const { base, pending } = get()
    const { base: from, choices } = open!
    const found = rebase(from, pending, base, (key) => choices.get(key))
    if (found.clashes.length > 0) return set({ save: 'clash', clashes: found.clashes })
    const mine = [...choices.values()].includes('theirs') ? rebaseMine(from, pending, base) : found
    const back = joined(mine.document, found.document, 'Take the other tab’s')
    const edits = back ? [...mine.edits, back] : found.edits
    const last = mine.edits.at(-1)
    try {
      parseDocument(found.document)
    } catch (error) {
      return set({ save: 'refused', clashes: [], problem: (error as Error).message })
    }
    if (back && last) toName.set(last.id, 'Mine, before taking the other tab’s')
    goOn(found.document, edits)
    saves.run()
  }

  function nameLater(id: string, revision: number): void {
    const name = toName.get(id)
    if (name === undefined) return
    const attempt = (): Promise<void> => host.name(revision, name).catch(() => host.later(() => void attempt()))
    toName.delete(id)
    void attempt()
  }

  /** Whether the server has given this answer three times running. */
  function isThird({ status, error }: { status: number; error?: string }): boolean {
    const answer = `${status} ${error}`
    failing = { answer, times: failing.answer === answer ? failing.times + 1 : 1 }
    return failing.times >= 3
  }

  /** Back to what is saved. */
  function settle(): void {
    open = null
    failing = { answer: '', times: 0 }
    set({ document: get().base, pending: [], gesture: null, save: 'saved', problem: null, clashes: [], ...confirmed })
    storeUnsent()
  }

  /** Ends a drag: what it came to is one edit. */
  function drop(): void {
    const { gesture, document } = get()
    if (!gesture) return
    const edit = joined(gesture.from, document, gesture.label)
    // The document stays the very same object: what was made of it stands.
    if (edit) pushNew(edit, document)
    else set({ gesture: null, document: gesture.from })
  }

  return {
    store,
    /** Changes the document. Nothing happens where the change changes nothing. */
    edit(label: string, change: (draft: MaterialDocument) => void): void {
      drop()
      const edit = editOf(get().document, label, change)
      if (edit) pushNew(edit)
    },
    /** A drag: shown while it goes on, one edit when it ends. */
    drag(label: string, change: (draft: MaterialDocument) => void): void {
      const { document, gesture } = get()
      const edit = editOf(document, label, change)
      if (!edit) return
      set({ gesture: gesture ?? { label, from: document }, document: patched(document, edit.patches) })
    },
    drop,
    /** Makes the document another one, as one edit: what returning to a state is. Nodes stay where they stand. */
    replace(label: string, next: MaterialDocument): void {
      drop()
      const edit = joined(get().document, withPlacesOf(get().document, next), label)
      if (edit) pushNew(edit)
    },
    /** Says where nodes stand in the graph, which undo and states know nothing of. */
    arrange(change: (draft: MaterialDocument) => void): void {
      drop()
      const edit = editOf(get().document, 'Arrange nodes', change)
      if (edit) push({ ...edit, kind: 'arrange' })
    },
    undo,
    redo,
    /** The labels of what undo and redo would be about now; null where there is nothing. */
    undoable: (): string | null => nextUndo()?.label ?? null,
    redoable: (): string | null => get().redo.at(-1)?.label ?? beneath.at(-1)?.of.label ?? null,
    /** Somebody saved: `head` is the newest revision. */
    remote(head: number): void {
      if (head <= get().head || get().save === 'clash') return
      // Saving and taking in happen one after the other: each goes by the head that it began with.
      const again = (): void => host.later(() => this.remote(head))
      if (!saves.between(() => catchUp().catch(again))) again()
    },
    /** Sends what waits, as after a time without a network. */
    retry: () => saves.run(),
    /** Sends again what the server refused. */
    sendAgain: () => {
      failing = { answer: '', times: 0 }
      set({ save: 'saving', problem: null })
      if (open) settleClashes()
      else saves.run()
    },
    /** Edits left over from a tab that was closed: put on top where they fit, else the user chooses. */
    async adopt(unsent: { head: number; edits: readonly Edit[] }): Promise<void> {
      const since = await host.since(unsent.head)
      const known = new Set(since.edits.map((edit) => edit.id))
      const mine = unsent.edits.filter((edit) => !known.has(edit.id))
      if (mine.length === 0) return
      if (since.edits.length === 0) return mine.forEach((edit) => push(edit))
      // They were made on a document that is known by taking back what came since.
      try {
        const from = since.edits.toReversed().reduce((at, edit) => patched(at, edit.inverse), get().base)
        const own = since.edits.filter((edit) => unsent.edits.some(({ id }) => id === edit.id))
        open = { head: unsent.head + own.length, base: all(from, own), choices: new Map(), foreign: false }
        set({ pending: mine, document: all(open.base, mine) })
        settleClashes()
      } catch {
        set({ pending: mine, save: 'refused', problem: 'Edits of a closed tab no longer fit this document.' })
      }
      storeUnsent()
    },
    /** After a clash: whose value stands at a place; all places, where none is named. */
    choose(choice: Choice, key?: string): void {
      const { clashes, save } = get()
      if (!open || save !== 'clash') return
      for (const clash of clashes) if (key === undefined || clash.key === key) open.choices.set(clash.key, choice)
      settleClashes()
    },
    /** What was done here and not saved is given up. */
    dropMine: settle,
  }

  /** An edit that somebody makes now: what was taken back before is done with. */
  function pushNew(edit: Edit, after?: MaterialDocument): void {
    beneath = []
    push(edit, after)
  }

  /** The edit that undo is about: the newest of one's own, else the newest there is. */
  function nextUndo(): Edit | undefined {
    const open = get().undo.filter(({ id }) => !passed.has(id))
    return open.findLast(({ id }) => !others.has(id)) ?? open.at(-1)
  }

  /**
   * Takes an edit back: the newest of one's own, else the newest there is. One that lies beneath others' edits is taken out of
   * the document as far as nobody has changed the same since. Null where there is none.
   */
  function undo(): Step | null {
    drop()
    const edit = nextUndo()
    if (!edit) return null
    const step = { label: edit.label, byOthers: others.has(edit.id), beneath: edit !== get().undo.at(-1) }
    if (!step.beneath) {
      turn('undo', edit)
      return { ...step, done: true }
    }
    const by = withoutEdit(edit, `Undo ${edit.label}`)
    if (by === 'clash') return { ...step, done: false }
    passed.add(edit.id)
    if (by) {
      passed.add(by.id)
      beneath.push({ of: edit, by })
      push(by)
    }
    return { ...step, done: true }
  }

  /** Does the edit again that was taken back last; null where there is none. */
  function redo(): Step | null {
    drop()
    const next = get().redo.at(-1)
    if (next) {
      turn('redo', next)
      return { label: next.label, byOthers: others.has(next.id), beneath: false, done: true }
    }
    const last = beneath.pop()
    if (!last) return null
    const again = withoutEdit(last.by, last.of.label)
    const step = { label: last.of.label, byOthers: others.has(last.of.id), beneath: true }
    if (again === 'clash') return { ...step, done: false }
    if (again) push(again)
    return { ...step, done: true }
  }

  /** The step that undoes or redoes an edit whose turn it is; nodes may have been moved about since. */
  function turn(kind: 'undo' | 'redo', about: Edit): void {
    const { document } = get()
    const next = patched(document, kind === 'undo' ? about.inverse : about.patches)
    const { patches, inverse } = joined(document, next, about.label) ?? { patches: [], inverse: [] }
    push({ id: uuid(), kind, of: about.id, label: about.label, patches, inverse }, next)
  }

  /** What takes an edit out that lies beneath others; null where nothing of it is left, "clash" where both touch the same. */
  function withoutEdit(edit: Edit, label: string): Edit | null | 'clash' {
    const { document, undo } = get()
    const above = undo.slice(undo.indexOf(edit) + 1)
    try {
      const after = above.toReversed().reduce((at, one) => patched(at, one.inverse), document)
      const found = mergeDocuments(after, patched(after, edit.inverse), document, () => undefined)
      if (found.clashes.length > 0) return 'clash'
      return joined(document, parseDocument(found.document), label)
    } catch {
      return 'clash'
    }
  }
}

/** Answers that say "not now": a proxy or a database that is away, or too much at once. */
const isPassing = (status: number): boolean => [408, 429, 502, 503, 504].includes(status)

export type EditingControl = ReturnType<typeof openEditing>

const all = (document: MaterialDocument, edits: readonly Edit[]): MaterialDocument =>
  edits.reduce((at, edit) => patched(at, edit.patches), document)

/** The stacks after one more entry of the history. */
function moved({ undo, redo }: Stacks<Edit>, edit: Edit): Stacks<Edit> {
  if (edit.kind === 'arrange') return { undo, redo }
  const top = edit.kind === 'undo' ? undo.at(-1) : redo.at(-1)
  if (edit.kind === 'edit') return { undo: [...undo, edit], redo: [] }
  if (!top || top.id !== edit.of) return { undo, redo }
  return edit.kind === 'undo'
    ? { undo: undo.slice(0, -1), redo: [...redo, top] }
    : { undo: [...undo, top], redo: redo.slice(0, -1) }
}
