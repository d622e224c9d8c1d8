import type { MaterialDocument, Source } from '../document/document'
import { inputSources, nodeOf } from '../document/sources'

/** Whether node `id` feeds a source, itself or through others. */
export function nodeReads(document: MaterialDocument, source: Source, id: string, seen = new Set<string>()): boolean {
  const node = nodeOf(document, source)
  if (node === null || seen.has(node)) return false
  if (node === id) return true
  seen.add(node)
  return inputSources(document.nodes[node]).some((next) => nodeReads(document, next, id, seen))
}

/** Ids of nodes that read the backdrop, themselves or through what feeds them. */
export function nodesReadingBackdrop(document: MaterialDocument): Set<string> {
  const users = new Map<string, string[]>()
  const found: string[] = []
  for (const [id, node] of Object.entries(document.nodes))
    for (const source of inputSources(node)) {
      const from = nodeOf(document, source)
      if ('backdrop' in source) found.push(id)
      if (from !== null) users.set(from, [...(users.get(from) ?? []), id])
    }
  const reading = new Set<string>()
  for (let id = found.pop(); id !== undefined; id = found.pop()) {
    if (reading.has(id)) continue
    reading.add(id)
    found.push(...(users.get(id) ?? []))
  }
  return reading
}
