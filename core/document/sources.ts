import { formatPort, parsePort } from './address'
import type { DocumentNode, MaterialDocument, Source } from './document'

/** An input as a source, however it is written. */
export const asSource = (input: string | Source): Source => (typeof input === 'string' ? { node: input } : input)

/** What the inputs of a node read. */
export const inputSources = (node: DocumentNode | undefined): Source[] =>
  Object.values(node?.inputs ?? {}).map(asSource)

/** "node.port" that a source leads to, through a tap too; null where it leads to no node. */
export function addressOf(document: MaterialDocument, source: Source): string | null {
  if ('node' in source) return source.node
  if (!('tap' in source)) return null
  const tap = Object.hasOwn(document.taps, source.tap) ? document.taps[source.tap] : undefined
  return tap && 'node' in tap ? tap.node : null
}

/** Node id of a source, through a tap too; null where it leads to no node. */
export function nodeOf(document: MaterialDocument, source: Source): string | null {
  const address = addressOf(document, source)
  return address === null ? null : parsePort(address).node
}

/** The node that stands for what lies below where wires begin; no node's id has a colon. */
export const BELOW = 'below:'

/** Where wires from what lies below in a channel begin, as "below:.height". */
export const belowAddress = (channel: string): string => formatPort({ node: BELOW, port: channel })

/** The source that a wire from "node.port", or from what lies below, brings. */
export function sourceAt(address: string): Source {
  const { node, port } = parsePort(address)
  return node === BELOW ? { backdrop: port } : { node: address }
}

/** Where the wire that brings a source begins; null where no wire does. */
export const wireStart = (document: MaterialDocument, source: Source): string | null =>
  'backdrop' in source ? belowAddress(source.backdrop) : addressOf(document, source)
