import type { MaterialDocument } from '#core/document/document'
import { findLayer, findPlain, setCell } from '#core/document/edits/layers'
import { fitOf, portTypes } from '#core/graph/port-types'
import { channelsOf } from '#core/document/channels'
import { BLEND_MODES } from '#core/kernels/blend'
import { registry } from '#core/nodes/registry.generated'
import type { Asset } from '../../contracts/asset'
import { typeAt, writeSource } from '../places'
import { blendWord, blendsFor } from '../words/blend-words'
import { allOutputs, keyOfSource, nodeTitle, nodesAndTaps, placeInWords, sourceOfKey } from '../words/source-words'
import type { Selection } from '../view'
import type { ActionContext } from './context'
import { circleAfter } from './taps'
import { outputOf } from '../view'

/** Things that can stand in one place, one of them now. */
interface Alternatives {
  /** Where they stand, in words. */
  readonly of: string
  readonly now: number
  readonly list: readonly { readonly word: string; apply(draft: MaterialDocument): void }[]
}

/** What is stepped through: what a place reads or a node is set to, or how it is blended or rolled. */
export type Auditioned = 'source' | 'blend'

/** Stepping through what could be in a place, by one key, while everything downstream follows; kept, or gone back from. */
export function auditionActions(context: ActionContext) {
  const { control, get, document, notify } = context
  /** What is auditioned, from what, and where it is. */
  let open: { key: string; from: MaterialDocument; shown: MaterialDocument; found: Alternatives; at: number } | null =
    null

  function alternatives(what: Auditioned, assets: readonly Asset[]): Alternatives | null {
    const { selection, selectedNodes } = get()
    const [node] = selectedNodes
    if (node !== undefined && document().nodes[node]) return ofNode(document(), node, what, assets)
    if (selection?.kind === 'cell') return ofCell(document(), selection, what)
    return selection?.kind === 'mask' && selection.entry !== null ? ofEntry(document(), selection, what) : null
  }

  const end = (): void => {
    open = null
    control.drop()
  }
  return {
    /** One alternative on, or back. */
    audition(what: Auditioned, by: 1 | -1, assets: readonly Asset[] = []): void {
      const key = JSON.stringify([what, get().selection, get().selectedNodes])
      // What was changed otherwise in the meantime is not gone back from.
      if (open && (open.key !== key || open.shown !== document())) end()
      if (!open) {
        const found = alternatives(what, assets)
        if (!found || found.list.length < 2) return notify('There is nothing else that could be here.')
        open = { key, from: document(), shown: document(), found, at: found.now }
      }
      const { list, of } = open.found
      open.at = (open.at + by + list.length) % list.length
      const { word, apply } = list[open.at]!
      control.drag(`Audition ${of}`, apply)
      open.shown = document()
      notify(`${of}: ${word} (${open.at + 1} of ${list.length}). Escape goes back.`)
    },
    /** Goes back to what was there before; false where nothing is auditioned. */
    endAudition(): boolean {
      if (!open) return false
      const { from, found, shown } = open
      open = null
      if (shown !== document()) return false
      control.drag(`Audition ${found.of}`, found.list[found.now]?.apply ?? (() => {}))
      control.drop()
      if (document() !== from) notify(`${found.of} is as it was.`)
      else notify(null)
      return true
    },
  }
}

function ofCell(
  document: MaterialDocument,
  place: Extract<Selection, { kind: 'cell' }>,
  what: Auditioned,
): Alternatives | null {
  const cell = findPlain(document, place.layer)?.cells[place.channel]
  const type = channelsOf(document).find(({ id }) => id === place.channel)?.type
  if (!cell || !type) return null
  const of = placeInWords(document, place)
  if (what === 'source') return sources(document, place, keyOfSource(cell.source), of)
  const blends = blendsFor(type)
  return {
    of,
    now: Math.max(0, blends.indexOf(cell.blend)),
    list: blends.map((blend) => ({
      word: blendWord(blend),
      apply: (draft) => setCell(draft, place.layer, place.channel, { blend: blend as typeof cell.blend }),
    })),
  }
}

function ofEntry(
  document: MaterialDocument,
  place: Extract<Selection, { kind: 'mask' }>,
  what: Auditioned,
): Alternatives | null {
  const entry = findLayer(document, place.layer)?.mask[place.entry!]
  if (!entry) return null
  const of = `${placeInWords(document, place)}, entry ${place.entry! + 1}`
  if (what === 'source') return sources(document, place, keyOfSource(entry.source), of)
  return {
    of,
    now: BLEND_MODES.indexOf(entry.mode),
    list: BLEND_MODES.map((mode) => ({
      word: blendWord(mode),
      apply: (draft) => void (findLayer(draft, place.layer)!.mask[place.entry!]!.mode = mode),
    })),
  }
}

/** All outputs and named results that a place can take, and what it has now. */
function sources(document: MaterialDocument, place: Selection, now: string, of: string): Alternatives {
  const types = portTypes(document, registry)
  const wanted = typeAt(document, place)
  const fitting = allOutputs(document).filter((address) => {
    const type = types.output(address)
    return type !== null && fitOf(type, wanted).kind !== 'refused'
  })
  const before = place.kind === 'cell' ? findPlain(document, place.layer)?.cells[place.channel]?.source : undefined
  const plain = before && 'value' in before ? before.value : 0.5
  const options = nodesAndTaps(document, fitting).filter(({ value }) => {
    const source = sourceOfKey(value, plain)
    return !circleAfter(document, (draft) => writeSource(draft, place, source), source, outputOf(document, place))
  })
  const own = options.some(({ value }) => value === now) ? [] : [{ value: now, word: 'as it was' }]
  const list = [...own, ...options]
  return {
    of,
    now: list.findIndex(({ value }) => value === now),
    list: list.map(({ value, word }) => ({
      word,
      apply: (draft) => writeSource(draft, place, sourceOfKey(value, plain)),
    })),
  }
}

/** A node's presets, its images, or seeds around its own. */
function ofNode(
  document: MaterialDocument,
  id: string,
  what: Auditioned,
  assets: readonly Asset[],
): Alternatives | null {
  const node = document.nodes[id]!
  const definition = registry.get(node.type)
  if (!definition) return null
  const of = nodeTitle(document, id)
  const set = (params: Readonly<Record<string, unknown>>) => (draft: MaterialDocument) => {
    draft.nodes[id]!.params = { ...node.params, ...params }
  }
  const named = (kind: string): string | undefined =>
    Object.entries(definition.params).find(([, parameter]) => parameter.kind === kind)?.[0]
  const image = named('image')
  if (what === 'source' && image && assets.length > 0) {
    const list = assets.map(({ sha256, name }) => ({ word: name, apply: set({ [image]: `sha256:${sha256}` }) }))
    return { of, now: assets.findIndex(({ sha256 }) => node.params?.[image] === `sha256:${sha256}`), list }
  }
  if (what === 'source' && definition.presets?.length) {
    const list = definition.presets.map(({ title, params }) => ({ word: title, apply: set(params) }))
    return { of, now: 0, list: [{ word: 'as it was', apply: set({}) }, ...list] }
  }
  if ('seed' in definition.params) {
    const now = Number(node.params?.seed ?? 0)
    const list = Array.from({ length: SEEDS }, (_, i) => (now + i) % MAX_SEED)
    return { of, now: 0, list: list.map((seed) => ({ word: `seed ${seed}`, apply: set({ seed }) })) }
  }
  return null
}

/** Seeds that are stepped through, and the first that is none. */
const SEEDS = 100
const MAX_SEED = 2 ** 32
