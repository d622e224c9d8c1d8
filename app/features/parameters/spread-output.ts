import { registry } from '#core/nodes/registry.generated'
import type { Place } from '../material/view'
import { outputOf } from '../material/view'

/** The output whose values the pane shows. */
export function spreadOutput(
  nodes: readonly string[],
  place: Place | null,
  document: { nodes: object },
): string | null {
  const [node] = nodes
  if (node !== undefined && node in document.nodes) {
    const { type } = (document.nodes as Record<string, { type: string }>)[node]!
    const port = Object.entries(registry.get(type)?.outputs ?? {}).find(([, one]) => one.type !== 'count')?.[0]
    return port ? `${node}.${port}` : null
  }
  return place ? outputOf(place) : 'colour'
}
