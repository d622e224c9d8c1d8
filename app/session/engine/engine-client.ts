import { createStore } from 'zustand/vanilla'
import type { DisplayBytes } from '#core/preview/display'
import type { DrawOutcome, DrawRequest, Drawn, Fault, Lane, SwatchPicture } from '#runtime/browser/coordinator'
import type { PackOutcome, PackRequest, PackedSheet } from '#runtime/browser/packing-preview'
import type { TexturePicture, TextureSlot } from '#runtime/browser/textures'

/** A swatch as a page keeps it; `drawn` counts how often its picture has changed. */
export interface Swatch extends SwatchPicture {
  readonly drawn: number
}
export type Textures = Partial<Record<TextureSlot, TexturePicture>>
export type Values = readonly { channel: string; type: string; values: number[] }[]

/** How a packing under way fares. */
interface PackState {
  readonly state: 'idle' | 'working' | 'done' | 'failed'
  readonly problem: string | null
}

/** What the workers have made so far. */
export interface Evaluation {
  readonly state: 'waiting' | 'rough' | 'sharp' | 'failed'
  readonly problem: string | null
  /** By lane, and of what was packed. */
  readonly textures: Record<Lane | 'packed', Textures>
  readonly swatches: Readonly<Record<string, Swatch>>
  readonly bands: Drawn['bands']
  readonly spread: Drawn['spread']
  /** Why some outputs could not be made, by output. */
  readonly faults: Readonly<Record<string, Fault>>
  readonly last: Pick<Drawn, 'width' | 'height' | 'evaluated' | 'reused' | 'milliseconds'> | null
  /** Milliseconds from the newest edit to its first and to its sharp picture. */
  readonly latency: { readonly rough: number | null; readonly sharp: number | null }
  /** What the packing makes of the channels: small pictures, checks, spreads. */
  readonly sheet: PackState & Omit<PackedSheet, 'kind'>
  /** Textures of files as they arrive; they are kept with the others. */
  readonly look: PackState
}

/** What is wanted on screen. */
export interface Wanted extends Omit<DrawRequest, 'width' | 'lit'> {
  /** Width of the sharp pass. */
  readonly width: number
}

/** The worker, as it is reached from a page. */
export interface Drawer {
  draw(lane: Lane, request: DrawRequest): Promise<DrawOutcome>
  probe(lane: Lane, u: number, v: number): Promise<Values>
  example(type: string): Promise<DisplayBytes | null>
  pack(request: PackRequest): Promise<PackOutcome>
}

/** Width of the first passes: swatches are made from them. */
export const ROUGH = 256
/** Channels that take as long as all others together; they follow in a pass of their own. */
const LATE = ['occlusion']

/**
 * Draws what is wanted: roughly first, then what takes long, then sharp. While the first pass runs it is let finish, so
 * that a long drag shows pictures all the way; then the newest document is next. Later passes are given up for anything
 * newer.
 */
export function openEvaluation(worker: Drawer, now: () => number = () => performance.now()) {
  const store = createStore<Evaluation>(() => ({
    state: 'waiting',
    problem: null,
    textures: { main: {}, other: {}, packed: {} },
    swatches: {},
    bands: {},
    spread: null,
    faults: {},
    last: null,
    latency: { rough: null, sharp: null },
    sheet: { state: 'idle', problem: null, files: {}, report: null, spreads: null },
    look: { state: 'idle', problem: null },
  }))
  const { getState: get, setState: set } = store
  let newest: Wanted | null = null
  let edited = 0
  let roughing = false
  const newestPack: { sheet: PackRequest | null; look: PackRequest | null } = { sheet: null, look: null }

  /** Takes an answer in. Swatches of outputs nobody wants any more are forgotten. */
  function take(lane: Lane, drawn: Drawn, wanted: Wanted, withSwatches: boolean): void {
    const { textures, swatches, latency, bands } = get()
    const merged = Object.keys(drawn.textures).length
      ? { ...textures, [lane]: { ...textures[lane], ...drawn.textures } }
      : textures
    if (lane === 'other') return set({ textures: merged })
    set({
      textures: merged,
      swatches: withSwatches ? mergeSwatches(swatches, drawn, wanted.swatches) : swatches,
      bands: withSwatches ? drawn.bands : bands,
      spread: drawn.spread,
      faults: withSwatches ? drawn.faults : { ...get().faults, ...drawn.faults },
      last: drawn,
      latency,
    })
  }

  async function run(): Promise<void> {
    roughing = true
    let wanted: Wanted
    do {
      wanted = newest!
      const since = edited
      // What stands alone on the stage is never late.
      const later = LATE.filter((output) => output !== wanted.shown && output !== wanted.spread)
      if (!(await pass(wanted, { width: Math.min(ROUGH, wanted.width), later }))) continue
      set({ state: 'rough', problem: null, latency: { rough: now() - since, sharp: null } })
    } while (wanted !== newest)
    roughing = false
    if (get().state === 'rough') void finish(wanted, edited)
  }

  async function finish(wanted: Wanted, since: number): Promise<void> {
    if (!(await pass(wanted, { width: Math.min(ROUGH, wanted.width) })) || wanted !== newest) return
    if (wanted.width > ROUGH && !(await pass(wanted, { swatches: [], bands: [] }))) return
    if (wanted === newest) set({ state: 'sharp', latency: { ...get().latency, sharp: now() - since } })
  }

  /** One call of the worker; false where it gave nothing. */
  async function pass(wanted: Wanted, change: Partial<DrawRequest>): Promise<boolean> {
    const request = { ...wanted, lit: true, ...change }
    const outcome = await worker.draw('main', request)
    if ('error' in outcome) {
      if (wanted === newest && !outcome.cancelled) set({ state: 'failed', problem: outcome.error })
      return false
    }
    take('main', outcome.drawn, wanted, request.swatches.length > 0)
    return true
  }

  return {
    store,
    want(wanted: Wanted): void {
      newest = wanted
      edited = now()
      if (get().state !== 'waiting') set({ state: 'rough' })
      if (!roughing) void run()
    },
    /** Draws the document that the other half of a split shows. Says what went wrong, or null. */
    async compare(wanted: Wanted): Promise<string | null> {
      const outcome = await worker.draw('other', { ...wanted, lit: true, swatches: [], bands: [] })
      if ('drawn' in outcome) take('other', outcome.drawn, wanted, false)
      return 'error' in outcome && !outcome.cancelled ? outcome.error : null
    },
    /** Packs; a newer request of the same kind gives up the one under way. */
    async pack(request: PackRequest): Promise<void> {
      const { kind } = request.want
      newestPack[kind] = request
      set({ [kind]: { ...get()[kind], state: 'working' } })
      const outcome = await worker.pack(request)
      if (newestPack[kind] !== request) return
      if ('error' in outcome) {
        if (!outcome.cancelled) set({ [kind]: { ...get()[kind], state: 'failed', problem: outcome.error } })
        return
      }
      const { packed } = outcome
      if (packed.kind === 'look') {
        set({ look: { state: 'done', problem: null }, textures: { ...get().textures, packed: packed.textures } })
        return
      }
      const before = get().sheet
      // What was not asked for again stays as it was.
      const { files, report, spreads } = packed
      set({
        sheet: {
          state: 'done',
          problem: null,
          files,
          report: report ?? before.report,
          spreads: spreads ?? before.spreads,
        },
      })
    },
    probe: (lane: Lane, u: number, v: number) => worker.probe(lane, u, v),
    example: (type: string) => worker.example(type),
  }
}

export type EvaluationControl = ReturnType<typeof openEvaluation>

function mergeSwatches(
  before: Evaluation['swatches'],
  drawn: Drawn,
  wanted: readonly string[],
): Evaluation['swatches'] {
  const after: Record<string, Swatch> = {}
  let changed = Object.keys(before).length !== wanted.length
  for (const output of wanted) {
    const fresh = drawn.swatches[output]
    const old = before[output]
    if (output in drawn.faults || (!fresh && !old)) {
      changed ||= old !== undefined
      continue
    }
    after[output] = fresh ? { ...fresh, drawn: (old?.drawn ?? 0) + 1 } : old!
    changed ||= fresh !== undefined
  }
  return changed ? after : before
}
