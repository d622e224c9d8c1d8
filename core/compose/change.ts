import type { Cell, DocumentNode, Layer, MaskEntry, MaterialDocument, Source } from '../document/document'
import { sameJson } from '../same-json'

/** Where two documents differ in numbers: ids of nodes and of layers. */
export interface NumberChange {
  readonly nodes: readonly string[]
  readonly layers: readonly string[]
}

/**
 * How two documents differ, dials applied, for the graph that they make: in parameters of nodes and amounts and values of
 * layers at most, or null where the graph is another one. Parts that are the same object are not looked into, so documents
 * that share what an edit did not touch take microseconds.
 */
export function changeBetween(before: MaterialDocument, after: MaterialDocument): NumberChange | null {
  if (before === after) return NOTHING
  for (const member of ['seed', 'domain', 'heightMetres', 'occlusion', 'channels', 'taps', 'name'] as const)
    if (!sameJson(before[member], after[member])) return null
  const nodes = changedNodes(before.nodes, after.nodes)
  const layers: string[] = []
  return nodes && collectLayers(before.layers, after.layers, layers) ? { nodes, layers } : null
}

const NOTHING: NumberChange = { nodes: [], layers: [] }

function changedNodes(
  before: Readonly<Record<string, DocumentNode>>,
  after: Readonly<Record<string, DocumentNode>>,
): string[] | null {
  if (before === after) return []
  const ids = Object.keys(after)
  if (ids.length !== Object.keys(before).length) return null
  const changed: string[] = []
  for (const id of ids) {
    const [old, now] = [before[id], after[id]!]
    if (old === now) continue
    if (
      !old ||
      old.type !== now.type ||
      old.version !== now.version ||
      !isOff(old, now) ||
      !sameJson(old.inputs, now.inputs)
    )
      return null
    // From all of it to less takes another step in the graph.
    if (isWhole(old) !== isWhole(now)) return null
    if (!sameJson(old.params, now.params) || old.amount !== now.amount) changed.push(id)
  }
  return changed
}

const isWhole = ({ amount = 1 }: DocumentNode): boolean => amount === 1

type Toggleable = { readonly off?: boolean }

const isOff = (a: Toggleable, b: Toggleable): boolean => (a.off ?? false) === (b.off ?? false)

/** False where the layers make another graph. */
function collectLayers(before: readonly Layer[], after: readonly Layer[], changed: string[]): boolean {
  if (before === after) return true
  if (before.length !== after.length) return false
  return before.every((old, i) => old === after[i] || collectLayer(old, after[i]!, changed))
}

function collectLayer(old: Layer, now: Layer, changed: string[]): boolean {
  if (old.id !== now.id || old.kind !== now.kind || !isOff(old, now) || !alike(old.amount, now.amount)) return false
  if (old.mask.length !== now.mask.length) return false
  let numbers = old.amount !== now.amount
  for (const [i, entry] of old.mask.entries()) {
    const found = compareEntry(entry, now.mask[i]!)
    if (found === null) return false
    numbers ||= found
  }
  if (old.kind === 'group' || now.kind === 'group') {
    if (old.kind !== 'group' || now.kind !== 'group' || old.closed !== now.closed) return false
    if (numbers) changed.push(now.id)
    return collectLayers(old.layers, now.layers, changed)
  }
  const channels = Object.keys(now.cells)
  if (channels.length !== Object.keys(old.cells).length) return false
  for (const channel of channels) {
    const [was, is] = [old.cells[channel], now.cells[channel]!]
    if (was === is) continue
    const found = was ? compareCell(was, is, old.amount, now.amount) : null
    if (found === null) return false
    numbers ||= found
  }
  if (numbers) changed.push(now.id)
  return true
}

/** Whether numbers differ; null where the graph does. */
function compareEntry(old: MaskEntry, now: MaskEntry): boolean | null {
  if (old === now) return false
  if (old.mode !== now.mode || old.invert !== now.invert || !isOff(old, now) || !alike(old.amount, now.amount))
    return null
  if ((old.joined ?? false) !== (now.joined ?? false)) return null
  const source = compareSource(old.source, now.source)
  return source === null ? null : source || old.amount !== now.amount
}

function compareCell(old: Cell, now: Cell, layerBefore: number, layerNow: number): boolean | null {
  if (old.blend !== now.blend || old.encoding !== now.encoding || !isOff(old, now)) return null
  if (!alike(layerBefore * old.amount, layerNow * now.amount)) return null
  const source = compareSource(old.source, now.source)
  return source === null ? null : source || old.amount !== now.amount
}

function compareSource(old: Source, now: Source): boolean | null {
  if ('value' in old && 'value' in now && typeof old.value === typeof now.value) return old.value !== now.value
  return sameJson(old, now) ? false : null
}

/** Amounts of 0 and 1 leave steps out. */
const alike = (a: number, b: number): boolean => a === b || (a > 0 && a < 1 && b > 0 && b < 1)
