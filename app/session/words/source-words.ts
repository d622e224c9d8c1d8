import { portTitle } from '#core/graph/titles'
import { formatPort, parsePort } from '#core/document/address'
import type { PortAddress } from '#core/document/address'
import { channelsOf } from '#core/document/channels'
import type { MaterialDocument, Source } from '#core/document/document'
import { findLayer } from '#core/document/edits/layers'
import type { Use } from '#core/document/edits/nodes'
import { tapName } from '#core/document/edits/taps'
import { registry } from '#core/nodes/registry.generated'
import type { Selection } from '../view'

/** Names of a document's nodes, kept while its nodes stay the same object. */
const NAMES = new WeakMap<MaterialDocument['nodes'], ReadonlyMap<string, string>>()

/** What a node is called: its own name, or its type's; a number tells those apart that would be called the same. */
export function nodeTitle({ nodes }: MaterialDocument, id: string): string {
  let names = NAMES.get(nodes)
  if (!names) NAMES.set(nodes, (names = distinctNames(nodes)))
  return names.get(id) ?? id
}

function distinctNames(nodes: MaterialDocument['nodes']): ReadonlyMap<string, string> {
  const ids = Object.keys(nodes).sort(byNumber)
  const plain = (id: string): string => nodes[id]!.name ?? registry.get(nodes[id]!.type)?.title ?? id
  // Names that somebody gave stay as they are.
  const taken = new Set(ids.filter((id) => nodes[id]!.name !== undefined).map(plain))
  const given = new Set<string>()
  const names = new Map<string, string>()
  for (const id of ids) {
    const name = plain(id)
    const free = (one: string): boolean => !given.has(one) && (nodes[id]!.name === one || !taken.has(one))
    let own = name
    for (let n = 2; !free(own); n++) own = `${name} ${n}`
    given.add(own)
    names.set(id, own)
  }
  return names
}

/** By the number at the end of ids, so that the second one of a type is called so: "noise", "noise-2", "noise-10". */
function byNumber(a: string, b: string): number {
  const [, wordA, numberA = '1'] = /^(.*?)(?:-(\d+))?$/.exec(a)!
  const [, wordB, numberB = '1'] = /^(.*?)(?:-(\d+))?$/.exec(b)!
  return wordA! < wordB! ? -1 : wordA! > wordB! ? 1 : Number(numberA) - Number(numberB)
}

/** Every output of every node, as "node.port", in the order of the document. */
export const allOutputs = (document: MaterialDocument): string[] =>
  Object.entries(document.nodes).flatMap(([node, { type }]) =>
    Object.keys(registry.get(type)?.outputs ?? {}).map((port) => formatPort({ node, port })),
  )

/** An output by its node's name, and its port where the node has several. */
export function outputInWords(document: MaterialDocument, { node: id, port }: PortAddress): string {
  const several = Object.keys(registry.get(document.nodes[id]?.type ?? '')?.outputs ?? {}).length > 1
  return several
    ? `${nodeTitle(document, id)}: ${portTitle(registry.get(document.nodes[id]?.type ?? ''), 'outputs', port).toLowerCase()}`
    : nodeTitle(document, id)
}

const channelTitle = (document: MaterialDocument, id: string): string =>
  channelsOf(document)
    .find((channel) => channel.id === id)
    ?.title.toLowerCase() ?? id

export function sourceInWords(document: MaterialDocument, source: Source): string {
  if ('value' in source) return `value ${source.value}`
  if ('node' in source) return outputInWords(document, parsePort(source.node))
  return 'tap' in source
    ? `“${tapName(document, source.tap)}”`
    : `what lies below, ${channelTitle(document, source.backdrop)}`
}

/** A source as the value of a choice; all plain values are one. */
export function keyOfSource(source: Source): string {
  if ('value' in source) return 'value'
  if ('node' in source) return `node:${source.node}`
  return 'tap' in source ? `tap:${source.tap}` : `backdrop:${source.backdrop}`
}

/** The source that a choice stands for; `plain` is what a plain value begins with. */
export function sourceOfKey(key: string, plain: number | string): Source {
  const rest = key.slice(key.indexOf(':') + 1)
  if (key.startsWith('node:')) return { node: rest }
  if (key.startsWith('tap:')) return { tap: rest }
  return key.startsWith('backdrop:') ? { backdrop: rest } : { value: plain }
}

/** Choices of nodes' outputs, then of taps. */
export const nodesAndTaps = (
  document: MaterialDocument,
  outputs: readonly string[],
): { value: string; word: string }[] => [
  ...outputs.map((address) => ({ value: `node:${address}`, word: outputInWords(document, parsePort(address)) })),
  ...Object.keys(document.taps).map((tap) => ({ value: `tap:${tap}`, word: `“${tapName(document, tap)}”` })),
]

/** A place that reads a node. */
export function readerInWords(document: MaterialDocument, use: Use): string {
  if (use.kind === 'input') {
    const node = registry.get(document.nodes[use.node]?.type ?? '')
    return `${nodeTitle(document, use.node)}, ${portTitle(node, 'inputs', use.port).toLowerCase()}`
  }
  const layer = findLayer(document, use.layer)?.name ?? use.layer
  if (use.kind === 'mask') return `${layer}, mask`
  const channel = channelsOf(document).find(({ id }) => id === use.channel)?.title ?? use.channel
  return `${layer}, ${channel.toLowerCase()}`
}

/** What is chosen in the sheet. */
export function placeInWords(document: MaterialDocument, place: Selection): string {
  const title = (id: string): string => channelTitle(document, id)
  if (place.kind === 'channel') return title(place.channel)
  const layer = findLayer(document, place.layer)?.name ?? place.layer
  if (place.kind === 'cell') return `${layer} · ${title(place.channel)}`
  return place.kind === 'mask' ? `${layer} · mask` : layer
}
