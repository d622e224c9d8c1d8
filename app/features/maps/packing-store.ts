import type { Step } from '../../session/document/document-store'
import { stepInWords } from '../../session/words/step-words'
import { createStore } from 'zustand/vanilla'
import { cutText } from '#core/cut-text'
import { GristError } from '#core/errors'
import { writtenOut } from '#core/texture/edit-packing'
import type { Channel } from '#core/document/channels'
import type { Packing } from '#core/texture/packing'
import { parsePacking } from '#core/texture/packing'
import type { StoredPacking } from '../../contracts/stored-packing'
import { saveLoop } from '../../session/document/save-loop'

/** What an edit was, and the packing before it. */
export interface PackingStep {
  readonly label: string
  readonly packing: Packing
}

export interface PackingState {
  /** As the server has them. */
  readonly list: readonly StoredPacking[]
  /** The one on screen, as it is edited. */
  readonly packing: Packing
  readonly undo: readonly PackingStep[]
  readonly redo: readonly PackingStep[]
  readonly save: 'saved' | 'saving' | 'away' | 'refused'
  /** Something to tell: what was refused, or what another tab did. */
  readonly notice: string | null
}

/** What the store needs from outside; tests bring their own. */
export interface PackingHost {
  /** Rejects where the server cannot be reached. */
  save(packing: Packing, base: number | null): Promise<{ status: number; stored?: StoredPacking; error?: string }>
  list(): Promise<readonly StoredPacking[]>
  remove(name: string): Promise<void>
  /** Keeps steps over a reload, and what was kept. */
  remember(name: string, steps: { undo: readonly PackingStep[]; redo: readonly PackingStep[] }): void
  recall(name: string): { undo: readonly PackingStep[]; redo: readonly PackingStep[] }
  later(work: () => void): void
}

const MAX_STEPS = 100

/**
 * The packings of a project, one of them on screen. A shipped one is copied with the first edit. Edits save themselves, the
 * newest after the one under way; where another tab was faster its packing is shown, and what was done here is one undo away.
 */
export function openPackings(
  { list, name }: { list: readonly StoredPacking[]; name: string },
  channels: () => readonly Channel[],
  host: PackingHost,
) {
  const first = list.find(({ packing }) => packing.name === name) ?? list[0]!
  const store = createStore<PackingState>(() => ({
    list,
    packing: first.packing,
    ...host.recall(first.packing.name),
    save: 'saved',
    notice: null,
  }))
  const { getState: get, setState: set } = store
  let dirty = false
  /** Own copies whose first change was undone: they go from the server too. */
  const takenBack = new Set<string>()
  /** The label of a gesture under way: its changes are one step. */
  let gesture: string | null = null

  const stored = (wanted: string): StoredPacking | undefined =>
    get().list.find(({ packing }) => packing.name === wanted)
  const isShipped = (): boolean => {
    const known = stored(get().packing.name)
    return known !== undefined && known.revision === null
  }

  function remember(): void {
    const { packing, undo, redo } = get()
    host.remember(packing.name, { undo, redo })
  }

  const saves = saveLoop({
    async step() {
      const [gone] = takenBack
      if (gone !== undefined) {
        await host.remove(gone)
        takenBack.delete(gone)
        set(({ list: now }) => ({ list: now.filter(({ packing }) => packing.name !== gone) }))
        return true
      }
      if (!dirty) return false
      dirty = false
      const { packing } = get()
      set({ save: 'saving' })
      const answer = await host.save(packing, stored(packing.name)?.revision ?? null)
      if (answer.stored) {
        const fresh = answer.stored
        set(({ list: now }) => ({ list: withStored(now, fresh), save: dirty ? 'saving' : 'saved' }))
      } else if (answer.status === 409) await takeTheirs(packing)
      else set({ save: 'refused', notice: answer.error ?? 'The server refused the packing.' })
      return true
    },
    away() {
      dirty = !isShipped()
      set({ save: 'away' })
    },
    later: host.later,
  })

  /** Another tab was faster. */
  async function takeTheirs(mine: Packing): Promise<void> {
    const now = await host.list()
    const theirs = now.find(({ packing }) => packing.name === mine.name)
    set({ list: now })
    if (get().packing.name !== mine.name) return set({ save: 'saved' })
    if (!theirs) {
      // It was deleted there; here it is still worked on.
      dirty = true
      return
    }
    const { packing, undo } = get()
    set({
      packing: theirs.packing,
      undo: [...undo, { label: 'what the other tab did', packing }].slice(-MAX_STEPS),
      redo: [],
      save: 'saved',
      notice: 'Another tab changed this packing. Its change is shown; undo brings yours back.',
    })
    remember()
  }

  function put(packing: Packing, steps: Pick<PackingState, 'undo' | 'redo'>): void {
    set({ packing, ...steps })
    remember()
    dirty = true
    saves.run()
  }

  function show(packing: Packing): void {
    set({ packing, ...host.recall(packing.name), notice: null })
  }

  /** A name in letters, digits and "-" that no packing of the project has. */
  function freeName(title: string): string {
    const slug =
      title
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, '-')
        .replace(/^-|-$/g, '')
        .slice(0, 56) || 'packing'
    let free = slug
    for (let n = 2; stored(free); n++) free = `${slug}-${n}`
    return free
  }

  function freeTitle(title: string): string {
    const titles = new Set(get().list.map(({ packing }) => packing.title))
    let free = title
    for (let n = 2; titles.has(free); n++) free = `${title} ${n}`
    return cutText(free, 100)
  }

  /** An own packing from another one; it is on screen from here on. */
  function startOwn(from: Packing, title: string): Packing {
    const free = freeTitle(title)
    return { ...writtenOut(from, channels()), title: free, name: freeName(free) }
  }

  return {
    store,
    isShipped,
    choose(wanted: string): void {
      const next = stored(wanted)
      if (next) show(next.packing)
    },
    /** Changes the packing on screen; typed errors become notices. Changes of one gesture are one step until `rest`. */
    edit(label: string, change: (packing: Packing) => Packing, moving = false): void {
      const { packing: before, undo } = get()
      try {
        const shipped = isShipped()
        const own = shipped ? startOwn(before, `${before.title}, own`) : writtenOut(before, channels())
        const after = parsePacking(change(own))
        if (JSON.stringify(after) === JSON.stringify(own)) return
        const step = { label, packing: before }
        set({ notice: shipped ? `Copied as “${own.title}”, as packings that are shipped stay as they are.` : null })
        const steps = moving && gesture === label ? undo : [...(shipped ? [] : undo), step]
        gesture = moving ? label : null
        put(after, { undo: steps.slice(-MAX_STEPS), redo: [] })
      } catch (error) {
        if (!(error instanceof GristError)) throw error
        set({ notice: error.detail })
      }
    },
    rest: (): void => void (gesture = null),
    undo(): void {
      gesture = null
      const { packing, undo, redo } = get()
      const step = undo.at(-1)
      set({ notice: stepInWords('undo', own(step)) })
      if (!step) return
      const steps = { undo: undo.slice(0, -1), redo: [...redo, { label: step.label, packing }] }
      if (stored(step.packing.name)?.revision !== null) return put({ ...step.packing, name: packing.name }, steps)
      // The first change had made a copy of a shipped packing: it goes, and the shipped one is shown.
      takenBack.add(packing.name)
      dirty = false
      set({ packing: step.packing, ...steps, undo: [], save: 'saved' })
      remember()
      saves.run()
    },
    redo(): void {
      const { packing, undo, redo } = get()
      const step = redo.at(-1)
      set({ notice: stepInWords('redo', own(step)) })
      if (!step) return
      const again = isShipped() ? step.packing : { ...step.packing, name: packing.name }
      takenBack.delete(again.name)
      put(again, { undo: [...undo, { label: step.label, packing }], redo: redo.slice(0, -1) })
    },
    duplicate(): void {
      const { packing } = get()
      put(startOwn(packing, `${packing.title}, copy`), { undo: [], redo: [] })
    },
    /** Takes a packing in from a JSON text and shows it. */
    add(text: string): void {
      try {
        let json: unknown
        try {
          json = JSON.parse(text)
        } catch (error) {
          throw new GristError('packing-invalid', `A packing is a JSON file: ${(error as Error).message}`)
        }
        const given = parsePacking(json)
        const taken = stored(given.name) !== undefined
        const own = taken ? { ...given, title: freeTitle(given.title) } : given
        set({ notice: null })
        put(taken ? { ...own, name: freeName(own.title) } : own, { undo: [], redo: [] })
      } catch (error) {
        if (!(error instanceof GristError)) throw error
        set({ notice: error.detail })
      }
    },
    /** Takes the packing on screen away; the first one shipped is shown then. */
    async remove(): Promise<void> {
      const { packing, list: now } = get()
      if (isShipped()) return
      await host.remove(packing.name)
      const rest = now.filter((one) => one.packing.name !== packing.name)
      set({ list: rest, notice: `“${packing.title}” is deleted. Deliveries made with it keep it in their records.` })
      const { notice } = get()
      show(rest[0]!.packing)
      set({ notice })
    },
    tell: (notice: string | null): void => set({ notice }),
  }
}

/** A step of a packing's history is always one's own. */
const own = (step: { label: string } | null | undefined): Step | null =>
  step ? { label: step.label, byOthers: false, beneath: false, done: true } : null

export type PackingControl = ReturnType<typeof openPackings>

const withStored = (list: readonly StoredPacking[], fresh: StoredPacking): StoredPacking[] =>
  list.some(({ packing }) => packing.name === fresh.packing.name)
    ? list.map((one) => (one.packing.name === fresh.packing.name ? fresh : one))
    : [...list, fresh]
