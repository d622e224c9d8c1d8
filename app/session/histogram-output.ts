import { channelOutput, parsePort } from '#core/document/address'
import type { Output } from '#core/document/address'
import type { MaterialDocument } from '#core/document/document'
import { findLayer, findPlain } from '#core/document/edits/layers'
import { asSource } from '#core/document/sources'
import { registry } from '#core/nodes/registry.generated'
import { typeAt } from './places'
import type { Selection } from './view'
import { outputOf } from './view'

/** The output whose values the pane shows: the chosen node's first that has any, else that of the chosen place. */
export function histogramOutput(
  document: MaterialDocument,
  nodes: readonly string[],
  place: Selection | null,
): Output | null {
  const [id] = nodes
  const node = id === undefined ? undefined : document.nodes[id]
  if (!node) return place ? outputOf(document, place) : channelOutput('colour')
  const port = Object.entries(registry.get(node.type)?.outputs ?? {}).find(([, one]) => one.type !== 'id')?.[0]
  return port ? { kind: 'port', node: id!, port } : null
}

/** Kinds of parameters that are drawn over the values they change. */
const DRAWN_OVER: readonly string[] = ['curve', 'stops']

/** What comes into a node whose curve or ramp is drawn over it; null where there is none, or a value alone comes in. */
export function drawnOverOutput(document: MaterialDocument, id: string | undefined): Output | null {
  const node = id === undefined ? undefined : document.nodes[id]
  const definition = node && registry.get(node.type)
  if (!definition || !Object.values(definition.params).some(({ kind }) => DRAWN_OVER.includes(kind))) return null
  const input = node.inputs?.[Object.keys(definition.inputs)[0] ?? '']
  if (input === undefined) return null
  const source = asSource(input)
  if ('node' in source) return { kind: 'port', ...parsePort(source.node) }
  return 'tap' in source ? { kind: 'tap', tap: source.tap } : null
}

/** What is laid over the surface to be seen where it is: the chosen node's grey, a mask or its entry, a grey cell. */
export function overlayOutput(
  document: MaterialDocument,
  nodes: readonly string[],
  place: Selection | null,
): Output | null {
  const node = nodes[0] === undefined ? undefined : document.nodes[nodes[0]]
  const grey = Object.entries(registry.get(node?.type ?? '')?.outputs ?? {}).find(([, { type }]) => type !== 'id')?.[0]
  if (node && grey) return { kind: 'port', node: nodes[0]!, port: grey }
  if (!place || !('layer' in place)) return null
  const layer = findLayer(document, place.layer)
  if (place.kind === 'mask' && place.entry !== null) return { kind: 'entry', layer: place.layer, entry: place.entry }
  if (
    place.kind === 'cell' &&
    typeAt(document, place) === 'grey' &&
    findPlain(document, place.layer)?.cells[place.channel]
  )
    return { kind: 'cell', layer: place.layer, channel: place.channel }
  return layer && layer.mask.length > 0 ? { kind: 'mask', layer: place.layer } : null
}

/** The mask within which values are counted; null for a layer that is gone or has none. */
export const withinOutput = (document: MaterialDocument, layer: string | null): Output | null =>
  layer !== null && (findLayer(document, layer)?.mask.length ?? 0) > 0 ? { kind: 'mask', layer } : null

/** All outputs whose histograms the panes show. */
export const histogramOutputs = (
  document: MaterialDocument,
  nodes: readonly string[],
  place: Selection | null,
): Output[] =>
  [histogramOutput(document, nodes, place), drawnOverOutput(document, nodes[0])].flatMap((output) => output ?? [])
