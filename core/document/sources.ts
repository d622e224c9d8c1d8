import { parsePort } from './address'
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
