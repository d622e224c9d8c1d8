import { parsePort } from '../address'
import type { NodeType, NodeTypes } from '../node-types'
import type { DocumentNode, MaterialDocument, Source } from '../document'
import { asSource, inputSources, nodeOf } from '../sources'
import { dropDrives, dropTap, findLayer, findPlain, removeUses } from './layers'
import { dropEmptyFrames } from './frames'
import { freeId, freeNodeId, idFrom } from './names'

/** Ids of all nodes that feed a source, its own node first. Circles end where they close. */
export function feedersOf(document: MaterialDocument, source: Source): string[] {
  const found: string[] = []
  const seen = new Set<string>()
  const visit = (id: string | null): void => {
    if (id === null || seen.has(id) || !Object.hasOwn(document.nodes, id)) return
    seen.add(id)
    found.push(id)
    for (const input of inputSources(document.nodes[id])) visit(nodeOf(document, input))
  }
  visit(nodeOf(document, source))
  return found
}

/** Ids of all nodes that a node feeds, itself among them: where its own inputs must not come from. */
export function fedBy(document: MaterialDocument, id: string): Set<string> {
  const users = new Map<string, string[]>()
  for (const [user, node] of Object.entries(document.nodes))
    for (const source of inputSources(node)) {
      const from = nodeOf(document, source)
      if (from !== null) users.set(from, [...(users.get(from) ?? []), user])
    }
  const found = new Set<string>()
  const open = [id]
  for (let next = open.pop(); next !== undefined; next = open.pop()) {
    if (found.has(next)) continue
    found.add(next)
    open.push(...(users.get(next) ?? []))
  }
  return found
}

/** Adds a node. Gives its id. */
export function addNode(
  draft: MaterialDocument,
  node: NodeType,
  at?: [number, number],
  params?: Readonly<Record<string, unknown>>,
): string {
  const id = freeNodeId(draft, node.type)
  draft.nodes[id] = {
    type: node.type,
    ...(node.version > 1 ? { version: node.version } : {}),
    ...(params ? { params: { ...params } } : {}),
    ...(at ? { at } : {}),
  }
  return id
}

/** A document whose nodes stand where those of another do that have the same ids. */
export function withPlacesOf(standing: MaterialDocument, document: MaterialDocument): MaterialDocument {
  const nodes = Object.entries(document.nodes).map(([id, { at: own, ...node }]) => {
    const at = Object.hasOwn(standing.nodes, id) ? standing.nodes[id]!.at : own
    return [id, at ? { ...node, at } : node]
  })
  return { ...document, nodes: Object.fromEntries(nodes) as MaterialDocument['nodes'] }
}

/** Whether a wire from `from` into `into` would close a circle. */
export const wouldCircle = (document: MaterialDocument, from: string, into: string): boolean =>
  fedBy(document, into).has(from)

/** Connects an input; what was there goes. */
export function connect(draft: MaterialDocument, node: string, port: string, source: Source): void {
  const target = draft.nodes[node]
  if (!target) return
  target.inputs = { ...target.inputs, [port]: 'node' in source ? source.node : source }
}

export function disconnect(draft: MaterialDocument, node: string, port: string): void {
  const inputs = draft.nodes[node]?.inputs
  if (inputs) delete inputs[port]
}

/**
 * Takes nodes away. Where one was read, the first of its inputs that `fits` there takes its place; where none does, the input,
 * cell or mask entry that read it goes too.
 */
export function deleteNodes(
  draft: MaterialDocument,
  ids: readonly string[],
  registry: NodeTypes,
  fits: (source: Source, at: Use) => boolean = () => true,
): void {
  for (const id of ids) {
    const node = draft.nodes[id]
    if (!node) continue
    const through = connectedInputs(node, registry).map(({ source }) => source)
    const reads = (source: Source): boolean => 'node' in source && parsePort(source.node).node === id
    for (const [name, tap] of Object.entries(draft.taps))
      if ('node' in tap && reads(tap)) {
        const first = through.find((source) => 'node' in source)
        if (first) draft.taps[name] = { ...first }
        else dropTap(draft, name)
      }
    forEachSource(draft, (source, write, at) => {
      const next = reads(source) && through.find((one) => fits(one, at))
      if (next) write({ ...next })
    })
    removeUses(draft, reads)
    dropDrives(draft, (drive) => 'node' in drive && drive.node === id)
    delete draft.nodes[id]
  }
  dropEmptyFrames(draft)
}

/** What the inputs of a node read, in the order of its ports. */
export const connectedInputs = (node: DocumentNode, registry: NodeTypes): { port: string; source: Source }[] =>
  Object.keys(registry.get(node.type)?.inputs ?? {}).flatMap((port) => {
    const input = node.inputs?.[port]
    return input === undefined ? [] : [{ port, source: asSource(input) }]
  })

/** Every source of a document, with a way to write another in its place. */
export function forEachSource(
  draft: MaterialDocument,
  visit: (source: Source, write: (source: Source) => void, at: Use) => void,
): void {
  for (const [id, node] of Object.entries(draft.nodes))
    for (const [port, input] of Object.entries(node.inputs ?? {}))
      visit(asSource(input), (source) => (node.inputs![port] = 'node' in source ? source.node : source), {
        kind: 'input',
        node: id,
        port,
      })
  const layers = (list: MaterialDocument['layers']): void => {
    for (const layer of list) {
      layer.mask.forEach((entry, index) =>
        visit(entry.source, (source) => (entry.source = source), { kind: 'mask', layer: layer.id, entry: index }),
      )
      if (layer.kind === 'group') layers(layer.layers)
      else
        for (const [channel, cell] of Object.entries(findPlain(draft, layer.id)!.cells))
          visit(cell.source, (source) => (cell.source = source), { kind: 'cell', layer: layer.id, channel })
    }
  }
  layers(draft.layers)
}

/** A place that reads a source. */
export type Use =
  | { kind: 'input'; node: string; port: string }
  | { kind: 'cell'; layer: string; channel: string }
  | { kind: 'mask'; layer: string; entry: number }

/** Who reads a node directly. */
export function usesOf(document: MaterialDocument, id: string): Use[] {
  const uses: Use[] = []
  forEachSource(document, (source, _, at) => {
    if (nodeOf(document, source) === id) uses.push(at)
  })
  return uses
}

/** Ids of nodes that come to nothing: no cell, mask entry or named result reads them, nor what they feed. */
export function unusedNodes(document: MaterialDocument): string[] {
  const used = new Set<string>()
  const use = (source: Source): void => {
    const id = nodeOf(document, source)
    if (id === null || used.has(id)) return
    used.add(id)
    inputSources(document.nodes[id]).forEach(use)
  }
  forEachSource(document, (source, _, { kind }) => void (kind !== 'input' && use(source)))
  for (const tap of Object.values(document.taps)) if ('node' in tap) use(tap)
  return Object.keys(document.nodes).filter((id) => !used.has(id))
}

/** A layer's mask as a source for anything: what its only entry reads, else a named result of the whole mask. */
export function maskSource(draft: MaterialDocument, layer: string): Source {
  const { mask, name } = findLayer(draft, layer)!
  const [only] = mask
  if (only && mask.length === 1 && !only.invert && only.amount === 1 && only.mode === 'multiply')
    return { ...(only.source as { node: string }) }
  const known = Object.entries(draft.taps).find(([, tap]) => 'mask' in tap && tap.layer === layer)?.[0]
  if (known !== undefined) return { tap: known }
  const tap = freeId(idFrom(`${name} mask`, 'mask'), (id) => Object.hasOwn(draft.taps, id))
  draft.taps[tap] = { layer, mask: true }
  return { tap }
}

export interface CellPlace {
  readonly layer: string
  readonly channel: string
}
