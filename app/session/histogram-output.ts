import type { MaterialDocument } from '#core/document/document'
import { registry } from '#core/nodes/registry.generated'
import type { Place } from './view'
import { outputOf } from './view'

/** The output whose values the pane shows: the chosen node's first that has any, else that of the chosen place. */
export function spreadOutput(document: MaterialDocument, nodes: readonly string[], place: Place | null): string | null {
  const [id] = nodes
  const node = id === undefined ? undefined : document.nodes[id]
  if (!node) return place ? outputOf(document, place) : 'colour'
  const port = Object.entries(registry.get(node.type)?.outputs ?? {}).find(([, one]) => one.type !== 'count')?.[0]
  return port ? `${id}.${port}` : null
}
