import type { MaterialDocument, Source } from '#core/document/document'
import { findLayer, findPlain } from '#core/document/edits/layers'
import type { Use } from '#core/document/edits/nodes'
import { connect, forEachSource, usesOf } from '#core/document/edits/nodes'
import type { PortType } from '#core/field/field'
import type { AnyNode } from '#core/graph/define-node'
import { fitOf, fittingPort, openTypes, portTypes } from '#core/graph/port-types'
import { registry } from '#core/nodes/registry.generated'
import { sourceType, typeAt } from '../places'
import type { Selection } from '../view'

/*
 * How nodes come into the chain: an operation takes in what was there before it, and hands its own result on.
 */

/** Families whose nodes make something by themselves: what there was before is not fed into them. */
const MAKERS: readonly string[] = ['make', 'shape']

/** The input by which a node takes in what there was before; null where it makes something by itself, or nothing fits. */
export const chainInput = (node: AnyNode, type: PortType | null): string | null =>
  type === null || MAKERS.includes(node.family) ? null : (fittingPort(node, type, 'input')?.port ?? null)

/** What a place reads now; an empty cell of a correction what lies below, as it reads that by its nature. */
export function sourceNow(document: MaterialDocument, place: Selection): Source | null {
  if (!('layer' in place)) return null
  if (place.kind === 'mask')
    return place.entry === null ? null : (findLayer(document, place.layer)?.mask[place.entry]?.source ?? null)
  const layer = findPlain(document, place.layer)
  if (place.kind !== 'cell' || !layer) return null
  return layer.cells[place.channel]?.source ?? (layer.kind === 'correction' ? { backdrop: place.channel } : null)
}

/** Room between a card and what is put behind it. */
const STEP = 220

/** A place right of a card that has one. */
export function besideCard(document: MaterialDocument, id: string): [number, number] | undefined {
  const at = document.nodes[id]?.at
  return at && [at[0] + STEP, at[1]]
}

/** Wires a new node behind another: it takes in what that gives, and is read instead where one place alone read it. */
export function putBehind(draft: MaterialDocument, before: string, node: AnyNode, id: string): void {
  const types = portTypes(draft, registry)
  const outputs = Object.keys(registry.get(draft.nodes[before]!.type)?.outputs ?? {})
  const uses = usesOf(draft, before)
  // The output that is read, where one is; else the first that fits.
  const read = uses.length === 1 ? sourceAtUse(draft, uses[0]!) : null
  const ports = outputs.map((port) => `${before}.${port}`)
  const from = [...(read && 'node' in read ? [read.node] : []), ...ports].find(
    (address) => chainInput(node, types.output(address)) !== null,
  )
  if (!from) return
  connect(draft, id, chainInput(node, types.output(from))!, { node: from })
  const [only] = uses
  if (uses.length !== 1 || !only) return
  const wanted = typeAtUse(draft, only)
  const output = fittingPort(node, wanted === 'any' ? (types.output(from) ?? 'grey') : wanted, 'output')?.port
  if (output) writeUse(draft, only, { node: `${id}.${output}` })
}

function sourceAtUse(document: MaterialDocument, use: Use): Source | null {
  let found: Source | null = null
  forEachSource(document, (source, _, at) => {
    if (JSON.stringify(at) === JSON.stringify(use)) found = source
  })
  return found
}

function writeUse(draft: MaterialDocument, use: Use, source: Source): void {
  forEachSource(draft, (_, write, at) => {
    if (JSON.stringify(at) === JSON.stringify(use)) write(source)
  })
}

const typeAtUse = (document: MaterialDocument, use: Use): PortType | 'any' =>
  use.kind === 'input'
    ? (portTypes(document, registry).input(use.node, use.port) ?? 'any')
    : typeAt(document, use.kind === 'mask' ? use : { ...use, kind: 'cell' })

/** Whether a place can read a source. */
export function fitsAt(document: MaterialDocument, source: Source, use: Use): boolean {
  const type = sourceType(document, source)
  if (!type) return false
  const open = use.kind === 'input' ? openTypes(registry.get(document.nodes[use.node]?.type ?? ''), use.port) : []
  return fitOf(type, open.length > 0 ? 'any' : typeAtUse(document, use), open).kind !== 'refused'
}
