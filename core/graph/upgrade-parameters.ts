import { GristError, show } from '../errors'
import type { NodeDefinition } from './define-node'
import type { DocumentNode } from '../document/document'

/**
 * A node's parameters as its definition of today names them; one without a version is of version 1.
 * Throws document-too-new where the node is of a later version.
 */
export function upgradeParameters(
  definition: Pick<NodeDefinition, 'type' | 'version' | 'upgrade'>,
  node: Pick<DocumentNode, 'params' | 'version'>,
): Record<string, unknown> {
  const from = node.version ?? 1
  if (from > definition.version)
    throw new GristError(
      'document-too-new',
      `"${definition.type}" is of version ${show(from)}; this program has ${definition.version}.`,
    )
  let params = node.params ?? {}
  for (let version = from; version < definition.version; version++)
    params = definition.upgrade?.[version]?.(params) ?? params
  return params
}
