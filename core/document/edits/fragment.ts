import { parsePort } from '../address'
import { channelsOf } from '../channels'
import type { Drive, Layer, MaterialDocument, PlainLayer, Source } from '../document'
import { allLayers } from '../document'
import { LIMITS } from '../../limits'
import { feedersOf, forEachSource } from './nodes'
import { findLayer, removeUses } from './layers'
import { freeId, freeLayerId, freeName, freeNodeId } from './names'

/** A part of a document: layers, the nodes and named results that they and `nodes` read, the dials that turn them. */
export type Fragment = Pick<MaterialDocument, 'nodes' | 'layers' | 'taps' | 'dials' | 'channels'>

/** What a fragment's own ids became where it was inserted. */
export interface Inserted {
  readonly nodes: ReadonlyMap<string, string>
  /** By old id. */
  readonly layerIds: ReadonlyMap<string, string>
  /** The layers, renamed; they are not in the sheet yet. */
  readonly layers: Layer[]
}

/** Layers with all that they rest on: nodes, named results of nodes and of these layers, dials. The document stays as it is. */
export function fragmentOf(document: MaterialDocument, layers: readonly Layer[]): Fragment {
  const inside = new Set([...allLayers(layers)].map(({ id }) => id))
  const taken: Fragment = { nodes: {}, layers: [...layers], taps: {}, dials: [], channels: {} }
  const take = (source: Source): void => {
    if ('tap' in source) {
      const tap = document.taps[source.tap]
      if (!tap || source.tap in taken.taps) return
      // What other layers come to stays with them.
      if ('layer' in tap && !inside.has(tap.layer)) return
      taken.taps[source.tap] = tap
      if ('node' in tap) take(tap)
      return
    }
    for (const id of feedersOf(document, source)) takeNode(id)
  }
  const takeNode = (id: string): void => {
    const node = document.nodes[id]
    if (!node || id in taken.nodes) return
    taken.nodes[id] = node
    forEachSource({ ...document, layers: [], nodes: { [id]: node } }, take)
  }
  forEachSource({ ...document, nodes: {}, layers: taken.layers }, take)
  for (const layer of allLayers(layers))
    for (const channel of layer.kind === 'group' ? [] : Object.keys((layer as PlainLayer).cells)) {
      const own = document.channels[channel]
      if (own) taken.channels[channel] = own
    }
  for (const dial of document.dials) {
    const drives = dial.drives.filter((drive) =>
      'node' in drive ? drive.node in taken.nodes : inside.has(drive.layer),
    )
    if (drives.length > 0) taken.dials.push({ ...dial, drives })
  }
  return JSON.parse(JSON.stringify(taken)) as Fragment
}

/** Nodes alone, with the dials that set them; what feeds them stays outside. */
export function nodesFragment(document: MaterialDocument, ids: readonly string[]): Fragment {
  const own = new Set(ids)
  const dials = document.dials.flatMap((dial) => {
    const drives = dial.drives.filter((drive) => 'node' in drive && own.has(drive.node))
    return drives.length > 0 ? [{ ...dial, drives }] : []
  })
  return {
    nodes: Object.fromEntries(ids.map((id) => [id, document.nodes[id]!])),
    layers: [],
    taps: {},
    dials,
    channels: {},
  }
}

/**
 * Puts nodes, named results, channels and dials of a fragment in, under ids that are free; its layers are given back for the
 * caller to put somewhere. A dial that is here already, by id and label, turns the new parts too. What the fragment reads
 * from outside is read here where there is such a thing and `keepOutside`, and taken out where not.
 */
export function insertFragment(
  draft: MaterialDocument,
  fragment: Fragment,
  { shift = [24, 24], keepOutside = true }: { shift?: readonly [number, number]; keepOutside?: boolean } = {},
): Inserted {
  const own = JSON.parse(JSON.stringify(fragment)) as Fragment
  for (const [id, channel] of Object.entries(own.channels))
    if (!channelsOf(draft).some((one) => one.id === id)) draft.channels[id] = channel
  const nodes = new Map<string, string>()
  for (const [id, node] of Object.entries(own.nodes)) {
    const free = freeNodeId(draft, id)
    nodes.set(id, free)
    if (node.at) node.at = [node.at[0] + shift[0], node.at[1] + shift[1]]
    if (node.frame !== undefined && !Object.hasOwn(draft.frames, node.frame)) delete node.frame
    draft.nodes[free] = node
  }
  const layerIds = new Map<string, string>()
  const names = [...allLayers(draft.layers)].map(({ name }) => name)
  const ids: Layer[] = []
  for (const layer of allLayers(own.layers)) {
    const free = freeLayerId({ ...draft, layers: [...draft.layers, ...ids] }, layer.id)
    layerIds.set(layer.id, free)
    layer.id = free
    layer.name = freeName(layer.name, names)
    names.push(layer.name)
    ids.push({ id: free, kind: 'layer' } as Layer)
  }
  const taps = new Map(
    Object.keys(own.taps).map((name) => [name, freeId(name, (one) => Object.hasOwn(draft.taps, one))] as const),
  )
  for (const [name, tap] of Object.entries(own.taps)) {
    const renamed = 'node' in tap ? renamedPort(tap.node, nodes) : null
    draft.taps[taps.get(name)!] = renamed
      ? { node: renamed }
      : 'layer' in tap
        ? { ...tap, layer: layerIds.get(tap.layer) ?? tap.layer }
        : tap
  }
  const parts = {
    ...draft,
    layers: own.layers,
    nodes: Object.fromEntries([...nodes.values()].map((id) => [id, draft.nodes[id]!])),
    dials: [],
  }
  const isHere = (source: Source): boolean => {
    if ('value' in source) return true
    if ('backdrop' in source) return channelsOf(draft).some(({ id }) => id === source.backdrop)
    if ('tap' in source) return keepOutside && Object.hasOwn(draft.taps, source.tap)
    return keepOutside && Object.hasOwn(draft.nodes, parsePort(source.node).node)
  }
  const outside: Source[] = []
  forEachSource(parts, (source, write) => {
    const renamed = 'node' in source ? renamedPort(source.node, nodes) : null
    if (renamed) write({ node: renamed })
    else if ('tap' in source && taps.has(source.tap)) write({ tap: taps.get(source.tap)! })
    else if (!isHere(source)) outside.push(source)
  })
  const lost = new Set(outside.map((source) => JSON.stringify(source)))
  removeUses(parts, (source) => lost.has(JSON.stringify(source)))
  insertDials(draft, own, nodes, layerIds)
  return { nodes, layerIds, layers: own.layers }
}

function renamedPort(address: string, nodes: ReadonlyMap<string, string>): string | null {
  const { node, port } = parsePort(address)
  const renamed = nodes.get(node)
  return renamed === undefined ? null : `${renamed}.${port}`
}

function insertDials(
  draft: MaterialDocument,
  { dials }: Fragment,
  nodes: ReadonlyMap<string, string>,
  layers: ReadonlyMap<string, string>,
): void {
  for (const dial of dials) {
    const drives = dial.drives.flatMap((drive): Drive[] => {
      if ('node' in drive) return nodes.has(drive.node) ? [{ ...drive, node: nodes.get(drive.node)! }] : []
      return layers.has(drive.layer) ? [{ ...drive, layer: layers.get(drive.layer)! }] : []
    })
    const known = draft.dials.find(
      ({ id, label, kind }) => id === dial.id && label === dial.label && kind === dial.kind,
    )
    if (known) known.drives.push(...drives.slice(0, LIMITS.document.drives - known.drives.length))
    else if (draft.dials.length < LIMITS.document.dials)
      draft.dials.push({ ...dial, id: freeId(dial.id, (id) => draft.dials.some((one) => one.id === id)), drives })
  }
}

/** Puts layers just above another, or on top of all. */
export function placeLayers(draft: MaterialDocument, layers: readonly Layer[], above: string | null): void {
  const holder = above === null ? null : holderOf(draft.layers, above)
  if (holder) holder.list.splice(holder.index + 1, 0, ...layers)
  else draft.layers.push(...layers)
}

function holderOf(list: Layer[], id: string): { list: Layer[]; index: number } | null {
  const index = list.findIndex((layer) => layer.id === id)
  if (index >= 0) return { list, index }
  for (const layer of list) {
    const found = layer.kind === 'group' ? holderOf(layer.layers, id) : null
    if (found) return found
  }
  return null
}

/**
 * Copies a layer, group and all, to just above it. The copy is independent: it has nodes of its own, and the dials that turn
 * the original turn it too. `linked` shares the nodes instead, so that a change to one is a change to both. Gives its id.
 */
export function duplicateLayer(draft: MaterialDocument, id: string, linked = false): string {
  const layer = findLayer(draft, id)
  if (!layer) return id
  const whole = fragmentOf(draft, [layer])
  const fragment = linked
    ? {
        ...whole,
        nodes: {},
        taps: Object.fromEntries(Object.entries(whole.taps).filter(([, tap]) => 'layer' in tap)),
        dials: whole.dials.map((dial) => ({ ...dial, drives: dial.drives.filter((drive) => 'layer' in drive) })),
      }
    : whole
  const [top] = fragment.layers
  top!.name = `${top!.name}, ${linked ? 'linked' : 'copy'}`
  const { layers } = insertFragment(draft, fragment, { shift: [24, 180] })
  placeLayers(draft, layers, id)
  return layers[0]!.id
}

/** Nodes of a layer that layers outside it read too, by the ids of those layers. */
export function sharedNodes(document: MaterialDocument, id: string): Map<string, string[]> {
  const layer = findLayer(document, id)
  const shared = new Map<string, string[]>()
  if (!layer) return shared
  const mine = new Set(Object.keys(fragmentOf(document, [layer]).nodes))
  const inside = new Set([...allLayers([layer])].map((one) => one.id))
  for (const other of allLayers(document.layers)) {
    if (other.kind === 'group' || inside.has(other.id)) continue
    for (const node of Object.keys(fragmentOf(document, [other]).nodes))
      if (mine.has(node)) shared.set(node, [...(shared.get(node) ?? []), other.id])
  }
  return shared
}

/** Gives a layer, and what lies in it, nodes of its own in place of those that layers outside read too. */
export function giveOwnNodes(draft: MaterialDocument, id: string): void {
  const layer = findLayer(draft, id)
  if (!layer) return
  // All that feeds a shared node is shared too.
  const shared = sharedNodes(draft, id)
  const alone = Object.keys(fragmentOf(draft, [layer]).nodes).filter((node) => !shared.has(node))
  const { nodes } = insertFragment(draft, nodesFragment(draft, [...shared.keys()]), { shift: [24, 180] })
  const own = Object.fromEntries(alone.map((node) => [node, draft.nodes[node]!]))
  forEachSource({ ...draft, layers: [layer], nodes: own }, (source, write) => {
    const port = 'node' in source ? renamedPort(source.node, nodes) : null
    if (port) write({ node: port })
  })
}
