import { channelOutput } from '#core/document/address'
import type { Output } from '#core/document/address'
import type { MaterialDocument } from '#core/document/document'
import { registry } from '#core/nodes/registry.generated'
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
