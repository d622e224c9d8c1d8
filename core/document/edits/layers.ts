import type { OptionalChannel } from '../channels'
import { isNormal } from '../channels'
import type { Cell, Drive, Group, Layer, MaskEntry, MaterialDocument, PlainLayer } from '../document'
import { allLayers } from '../document'
import { asSource } from '../sources'
import { freeLayerId, freeName, idFrom } from './names'

/*
 * Edits of the layer sheet. Each changes the draft it is given: an Immer draft, or a copy that is the caller's own.
 * Lists run from the bottom up, as the document has them.
 */

export type LayerKind = Layer['kind']

/** Where a layer lies: the list that holds it, its index, and the group around it. */
export interface LayerLocation {
  readonly list: Layer[]
  readonly index: number
  readonly group: Group | null
}

/** Finds a layer's place; null where there is no such layer. */
export function locateLayer(layers: Layer[], id: string, group: Group | null = null): LayerLocation | null {
  for (const [index, layer] of layers.entries()) {
    if (layer.id === id) return { list: layers, index, group }
    if (layer.kind === 'group') {
      const inside = locateLayer(layer.layers, id, layer)
      if (inside) return inside
    }
  }
  return null
}

export function findLayer(document: MaterialDocument, id: string): Layer | undefined {
  for (const layer of allLayers(document.layers)) if (layer.id === id) return layer
  return undefined
}

/** The layer that carries cells, or undefined where it is a group or not there. */
export function findPlain(document: MaterialDocument, id: string): PlainLayer | undefined {
  const layer = findLayer(document, id)
  return layer && layer.kind !== 'group' ? (layer as PlainLayer) : undefined
}

const NAMES: Record<LayerKind, string> = { layer: 'Layer', correction: 'Correction', group: 'Group' }

/** Puts a new layer above `above`, or on top of all. Gives its id. */
export function addLayer(draft: MaterialDocument, kind: LayerKind, above: string | null, name = NAMES[kind]): string {
  const id = freeLayerId(draft, idFrom(name, kind))
  const names = [...allLayers(draft.layers)].map((layer) => layer.name)
  const common = { id, name: freeName(name, names), amount: 1, mask: [] }
  const layer: Layer =
    kind === 'group' ? { kind, ...common, closed: false, layers: [] } : { kind, ...common, cells: {} }
  insertAbove(draft, above, layer)
  return id
}

function insertAbove(draft: MaterialDocument, above: string | null, layer: Layer): void {
  const berth = above === null ? null : locateLayer(draft.layers, above)
  if (berth) berth.list.splice(berth.index + 1, 0, layer)
  else draft.layers.push(layer)
}

/** Takes a layer away, with the taps on it, the dial drives into it, and whatever read those taps. */
export function deleteLayer(draft: MaterialDocument, id: string): void {
  const berth = locateLayer(draft.layers, id)
  if (!berth) return
  const [gone] = berth.list.splice(berth.index, 1)
  const ids = new Set([...allLayers([gone!])].map((layer) => layer.id))
  dropDrives(draft, (drive) => 'layer' in drive && ids.has(drive.layer))
  for (const [name, tap] of Object.entries(draft.taps)) if ('layer' in tap && ids.has(tap.layer)) dropTap(draft, name)
}

/** Takes a tap away, and everything that read it. */
export function dropTap(draft: MaterialDocument, name: string): void {
  delete draft.taps[name]
  removeUses(draft, (source) => 'tap' in source && source.tap === name)
}

/** Removes every cell, mask entry and node input whose source is `which`. */
export function removeUses(draft: MaterialDocument, which: (source: Cell['source']) => boolean): void {
  for (const layer of allLayers(draft.layers)) {
    removeEntries(draft, layer, (entry) => which(entry.source))
    if (layer.kind === 'group') continue
    const { cells } = layer as PlainLayer
    for (const [channel, cell] of Object.entries(cells)) if (which(cell.source)) clearCell(draft, layer.id, channel)
  }
  for (const node of Object.values(draft.nodes))
    for (const [port, input] of Object.entries(node.inputs ?? {})) if (which(asSource(input))) delete node.inputs![port]
}

/** Removes dial drives; the dials stay. */
export function dropDrives(draft: MaterialDocument, which: (drive: Drive) => boolean): void {
  for (const dial of draft.dials)
    if (dial.drives.some(which)) dial.drives = dial.drives.filter((drive) => !which(drive))
}

/** Where a layer goes: just above or below another, or into a group, on top of what it holds. */
export type Landing = { readonly beside: string; readonly side: 'above' | 'below' } | { readonly into: string }

/** Moves a layer. False where it cannot go there: into itself, or beside a layer that does not exist. */
export function moveLayer(draft: MaterialDocument, id: string, landing: Landing): boolean {
  const target = 'into' in landing ? landing.into : landing.beside
  const from = locateLayer(draft.layers, id)
  if (!from || target === id) return false
  const layer = from.list[from.index]!
  if ([...allLayers([layer])].some((inner) => inner.id === target)) return false
  const group = 'into' in landing ? findLayer(draft, target) : null
  if ('into' in landing ? group?.kind !== 'group' : !locateLayer(draft.layers, target)) return false
  from.list.splice(from.index, 1)
  if ('into' in landing) (group as Group).layers.push(layer)
  else {
    const to = locateLayer(draft.layers, target)!
    to.list.splice(to.index + (landing.side === 'above' ? 1 : 0), 0, layer)
  }
  return true
}

/**
 * One step up or down among what lies in the same list; over the edge of a group it leaves the group, and a step that
 * meets an open list of a neighbouring group goes past it. False where there is nowhere to go.
 */
export function stepLayer(draft: MaterialDocument, id: string, by: 1 | -1): boolean {
  const berth = locateLayer(draft.layers, id)
  if (!berth) return false
  const neighbour = berth.list[berth.index + by]
  const side = by === 1 ? 'above' : 'below'
  if (neighbour) return moveLayer(draft, id, { beside: neighbour.id, side })
  return berth.group ? moveLayer(draft, id, { beside: berth.group.id, side }) : false
}

/** Into the group next below (or above) it. False where neither neighbour is a group. */
export function enterGroup(draft: MaterialDocument, id: string): boolean {
  const berth = locateLayer(draft.layers, id)
  const group = berth && [berth.list[berth.index - 1], berth.list[berth.index + 1]].find((one) => one?.kind === 'group')
  return group ? moveLayer(draft, id, { into: group.id }) : false
}

/** Out of its group, just above it. False where it is in none. */
export function leaveGroup(draft: MaterialDocument, id: string): boolean {
  const group = locateLayer(draft.layers, id)?.group
  return group ? moveLayer(draft, id, { beside: group.id, side: 'above' }) : false
}

/** Those of the layers that lie in none of the others, from the bottom up. */
export function outermost(document: MaterialDocument, ids: readonly string[]): string[] {
  const chosen = new Set(ids)
  const found: string[] = []
  const walk = (layers: readonly Layer[]): void => {
    for (const layer of layers)
      if (chosen.has(layer.id)) found.push(layer.id)
      else if (layer.kind === 'group') walk(layer.layers)
  }
  walk(document.layers)
  return found
}

/** Puts layers into a new group in the place of the topmost. Gives the group's id; null where there are no such layers. */
export function wrapInGroup(draft: MaterialDocument, ids: readonly string[]): string | null {
  const inside = outermost(draft, ids)
  const top = inside.at(-1)
  if (top === undefined) return null
  const group = addLayer(draft, 'group', top)
  for (const id of inside) moveLayer(draft, id, { into: group })
  return group
}

/** Moves layers to one place, in the order they lie in. */
export function moveLayers(draft: MaterialDocument, ids: readonly string[], landing: Landing): void {
  let at = landing
  for (const id of outermost(draft, ids)) {
    if (!moveLayer(draft, id, at)) continue
    if (!('into' in at)) at = { beside: id, side: 'above' }
  }
}

/** Moves layers a step up or down together; those at an edge hold the others back. */
export function stepLayers(draft: MaterialDocument, ids: readonly string[], by: 1 | -1): void {
  const inOrder = outermost(draft, ids)
  for (const id of by === 1 ? inOrder.reverse() : inOrder) if (!stepLayer(draft, id, by)) return
}

/** Puts a cell in, or changes what is there. */
export function setCell(draft: MaterialDocument, layer: string, channel: string, change: Partial<Cell>): void {
  const plain = findPlain(draft, layer)
  if (!plain) return
  const blend = isNormal(channel) ? 'combine' : 'normal'
  const now = plain.cells[channel] ?? { source: { value: 0.5 }, blend, amount: 1, encoding: 'srgb' as const }
  plain.cells[channel] = { ...now, ...change }
  // A dial would put its value back in place of what was connected.
  if (change.source && !('value' in change.source))
    dropDrives(
      draft,
      (drive) => 'channel' in drive && drive.field === 'value' && drive.layer === layer && drive.channel === channel,
    )
}

/** Empties a cell; dial drives into it go, taps on the layer stay. */
export function clearCell(draft: MaterialDocument, layer: string, channel: string): void {
  const plain = findPlain(draft, layer)
  if (!plain) return
  delete plain.cells[channel]
  dropDrives(
    draft,
    (drive) => 'layer' in drive && drive.layer === layer && 'channel' in drive && drive.channel === channel,
  )
}

/** Adds an entry on top of a mask stack. */
export function addMaskEntry(draft: MaterialDocument, layer: string, source: MaskEntry['source']): number {
  const found = findLayer(draft, layer)
  if (!found) return -1
  found.mask.push({ source, mode: 'multiply', amount: 1, invert: false })
  return found.mask.length - 1
}

/** Takes an entry out; drives into later ones follow their entry. */
export function deleteMaskEntry(draft: MaterialDocument, layer: string, index: number): void {
  const found = findLayer(draft, layer)
  if (found?.mask[index]) removeEntries(draft, found, (_, at) => at === index)
}

function removeEntries(
  draft: MaterialDocument,
  layer: Layer,
  which: (entry: MaskEntry, index: number) => boolean,
): void {
  const kept = layer.mask.map((_, index) => index).filter((index) => !which(layer.mask[index]!, index))
  if (kept.length < layer.mask.length) arrangeEntries(draft, layer, kept)
}

/** Moves a mask entry to another place in the stack; dial drives follow it. */
export function moveMaskEntry(draft: MaterialDocument, layer: string, from: number, to: number): void {
  const found = findLayer(draft, layer)
  if (!found || !found.mask[from] || to < 0 || to >= found.mask.length || from === to) return
  const order = found.mask.map((_, index) => index)
  order.splice(to, 0, ...order.splice(from, 1))
  arrangeEntries(draft, found, order)
}

/** Puts an entry into one group with the entry under it, or takes it out. The lowest has none under it. */
export function joinEntry(draft: MaterialDocument, layer: string, index: number, joined: boolean): void {
  const entry = index > 0 ? findLayer(draft, layer)?.mask[index] : undefined
  if (!entry) return
  if (joined) entry.joined = true
  else delete entry.joined
}

/** The mask as the old entries of `order`; drives are renumbered, those into entries that are gone go. */
function arrangeEntries(draft: MaterialDocument, layer: Layer, order: readonly number[]): void {
  layer.mask = order.map((index) => layer.mask[index]!)
  for (const dial of draft.dials)
    dial.drives = dial.drives.flatMap((drive): Drive[] => {
      if (!('entry' in drive) || drive.layer !== layer.id) return [drive]
      const entry = order.indexOf(drive.entry)
      return entry < 0 ? [] : [{ ...drive, entry }]
    })
}

/** Adds a channel of the document's own. Gives its id. */
export function addChannel(
  draft: MaterialDocument,
  title: string,
  type: 'grey' | 'colour',
  taken: readonly string[],
): string {
  let id = idFrom(title, 'channel')
  for (let n = 2; taken.includes(id) || Object.hasOwn(draft.channels, id); n++) id = `${idFrom(title, 'channel')}-${n}`
  draft.channels[id] = { title, type, backdrop: type === 'grey' ? 0 : '#000000' }
  return id
}

/** Adds a channel that a material may have, by its id; one that is there stays as it is. */
export function addOptionalChannel(draft: MaterialDocument, { id, title, backdrop }: OptionalChannel): void {
  if (!Object.hasOwn(draft.channels, id)) draft.channels[id] = { title, type: 'grey', backdrop }
}

/** Takes an own channel away, with its cells, drives and taps. */
export function deleteChannel(draft: MaterialDocument, id: string): void {
  if (!Object.hasOwn(draft.channels, id)) return
  for (const layer of allLayers(draft.layers)) clearCell(draft, layer.id, id)
  for (const [name, tap] of Object.entries(draft.taps)) if ('channel' in tap && tap.channel === id) dropTap(draft, name)
  removeUses(draft, (source) => 'backdrop' in source && source.backdrop === id)
  delete draft.channels[id]
}
