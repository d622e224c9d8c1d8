import { isNormal } from '../channels'
import { parsePort } from '../address'
import { z } from 'zod'
import { GristError } from '../../errors'
import type { NodeType, NodeTypes } from '../node-types'
import type { Cell, DocumentNode, MaterialDocument, Source } from '../document'
import { parseDocument } from '../document'
import { DOCUMENT_VERSION } from '../upgrade'
import { asSource, inputSources, nodeOf } from '../sources'
import { dropDrives, dropTap, findLayer, findPlain, removeUses, setCell } from './layers'
import { freeId, freeNodeId, idFrom } from './names'

/** Nodes as text, for the clipboard. */
const CLIP_FORMAT = 'amber-grist/nodes'

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

/** Copies nodes with the wires among them; wires from outside stay, wires to outside are not copied. Gives new ids by old. */
export function duplicateNodes(draft: MaterialDocument, ids: readonly string[]): Map<string, string> {
  return insertNodes(draft, Object.fromEntries(ids.map((id) => [id, draft.nodes[id]!])), [24, 24], true)
}

function insertNodes(
  draft: MaterialDocument,
  nodes: Readonly<Record<string, DocumentNode>>,
  by: readonly [number, number],
  keepOutside: boolean,
): Map<string, string> {
  const renamed = new Map<string, string>()
  const copies = JSON.parse(JSON.stringify(nodes)) as Record<string, DocumentNode>
  for (const [id, copy] of Object.entries(copies)) {
    const own = freeNodeId(draft, id)
    renamed.set(id, own)
    draft.nodes[own] = { ...copy, ...(copy.at ? { at: [copy.at[0] + by[0], copy.at[1] + by[1]] } : {}) }
  }
  for (const own of renamed.values()) {
    const { inputs } = draft.nodes[own]!
    for (const [port, input] of Object.entries(inputs ?? {})) {
      const source = asSource(input)
      const { node: from, port: output } = parsePort('node' in source ? source.node : '')
      if ('node' in source && renamed.has(from)) inputs![port] = `${renamed.get(from)!}.${output}`
      else if (!keepOutside && !('value' in source) && !('backdrop' in source)) delete inputs![port]
    }
  }
  return renamed
}

/** Nodes as text that pasteNodes reads, here or in another document. */
export const copyNodes = (document: MaterialDocument, ids: readonly string[]): string =>
  JSON.stringify(
    {
      format: CLIP_FORMAT,
      version: DOCUMENT_VERSION,
      nodes: Object.fromEntries(ids.map((id) => [id, document.nodes[id]!])),
    },
    null,
    1,
  )

const clip = z.object({
  format: z.literal(CLIP_FORMAT),
  version: z.int(),
  nodes: z.record(z.string(), z.unknown()),
})

/** Adds the nodes of a text. Wires that lead out of them are left loose, but for those from what lies below in a correction. Throws document-invalid. Gives the new ids. */
export function pasteNodes(
  draft: MaterialDocument,
  text: string,
  registry: NodeTypes,
  by: readonly [number, number],
): string[] {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    throw new GristError('document-invalid', 'What was copied is no nodes: it is not JSON.')
  }
  const read = clip.safeParse(json)
  if (!read.success)
    throw new GristError('document-invalid', `What was copied is no nodes: expected "format": "${CLIP_FORMAT}".`)
  const { nodes } = parseDocument({
    format: 'amber-grist/material',
    version: read.data.version,
    name: 'clipboard',
    domain: { kind: 'tile', metres: [1, 1] },
    nodes: read.data.nodes,
  })
  for (const { type } of Object.values(nodes))
    if (!registry.has(type)) throw new GristError('node-unknown', `There is no node type "${type}" here.`)
  return [...insertNodes(draft, nodes, by, false).values()]
}

/** Copies a cell to another place, with nodes of its own: later changes to one leave the other as it is. */
export function copyCell(draft: MaterialDocument, from: CellPlace, to: CellPlace): void {
  const cell = findPlain(draft, from.layer)?.cells[from.channel]
  if (!cell) return
  const feeders = feedersOf(draft, cell.source)
  let { source } = cell
  if (feeders.length > 0 && 'node' in source) {
    const renamed = duplicateNodes(draft, feeders)
    const { node: id, port } = parsePort(source.node)
    source = { node: `${renamed.get(id)!}.${port}` }
  }
  setCell(draft, to.layer, to.channel, { ...carried(cell, from, to), source: { ...source } })
}

/** Links a cell to another place: both read one source. A plain value becomes a node that both read. */
export function linkCell(draft: MaterialDocument, from: CellPlace, to: CellPlace): void {
  const cell = findPlain(draft, from.layer)?.cells[from.channel]
  if (!cell) return
  if ('value' in cell.source) {
    const { value } = cell.source
    const id = freeNodeId(draft, 'shared')
    const number = typeof value === 'number'
    draft.nodes[id] = { type: 'constant', name: 'Shared value', params: number ? { value } : { colour: value } }
    cell.source = { node: `${id}.${number ? 'grey' : 'colour'}` }
    redirectValueDrives(draft, from, id, number ? 'value' : 'colour')
  }
  setCell(draft, to.layer, to.channel, { ...carried(cell, from, to), source: { ...cell.source } })
}

/** Dials that set the value of a cell set the node that has taken its place. */
function redirectValueDrives(draft: MaterialDocument, from: CellPlace, node: string, field: string): void {
  for (const dial of draft.dials)
    dial.drives = dial.drives.map((drive) =>
      'channel' in drive && drive.field === 'value' && drive.layer === from.layer && drive.channel === from.channel
        ? { node, field, scale: drive.scale, offset: drive.offset }
        : drive,
    )
}

export interface CellPlace {
  readonly layer: string
  readonly channel: string
}

/** What goes along when a cell lands in another channel: the normal channel has blends of its own. */
function carried(cell: Cell, from: CellPlace, to: CellPlace): Partial<Cell> {
  const { amount, encoding, blend } = cell
  const crosses = isNormal(from.channel) !== isNormal(to.channel)
  return crosses ? { amount, encoding } : { amount, encoding, blend }
}
