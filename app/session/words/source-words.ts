import { portTitle } from '#core/graph/titles'
import { formatPort, parsePort } from '#core/document/address'
import type { PortAddress } from '#core/document/address'
import type { MaterialDocument, Source } from '#core/document/document'
import { registry } from '#core/nodes/registry.generated'

/** What a node is called. */
export function nodeTitle(document: MaterialDocument, id: string): string {
  const node = document.nodes[id]
  return node?.name ?? registry.get(node?.type ?? '')?.title ?? id
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

export function sourceInWords(document: MaterialDocument, source: Source): string {
  if ('value' in source) return `value ${source.value}`
  if ('node' in source) return outputInWords(document, parsePort(source.node))
  return 'tap' in source ? `tap ${source.tap}` : `below: ${source.backdrop}`
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
  ...Object.keys(document.taps).map((tap) => ({ value: `tap:${tap}`, word: `tap ${tap}` })),
]
