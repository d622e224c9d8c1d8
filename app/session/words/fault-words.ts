import type { MaterialDocument } from '#core/document/document'
import { findLayer } from '#core/document/edits/layers'
import { portTitle } from '#core/graph/titles'
import { registry } from '#core/nodes/registry.generated'
import type { Fault } from '../../../runtime/browser/protocol'
import { nodeTitle } from './source-words'

/** What a node lacks, where that is why it does nothing yet; null for other faults. */
export function lackInWords(document: MaterialDocument, { code, parameter, node }: Fault): string | null {
  if (code !== 'input-missing' || parameter === undefined || node === undefined) return null
  return `${portTitle(registry.get(document.nodes[node]?.type ?? ''), 'inputs', parameter)} is not connected`
}

/** What is wrong and where, as people name it. */
export function faultInWords(document: MaterialDocument, fault: Fault): string {
  const { node, layer, dial } = fault
  const where =
    node !== undefined && document.nodes[node]
      ? nodeTitle(document, node)
      : layer !== undefined
        ? (findLayer(document, layer)?.name ?? null)
        : dial !== undefined
          ? (document.dials.find(({ id }) => id === dial)?.label ?? null)
          : null
  const what = lackInWords(document, fault) ?? fault.message
  return where === null ? what : `${where}: ${what}`
}
