import type { AnyNode } from './define-node'

/** Node types by name. Put together in core/nodes/registry.generated.ts and handed down. */
export type Registry = ReadonlyMap<string, AnyNode>

/** Builds a registry; two nodes of one type are a fault. */
export function makeRegistry(nodes: readonly AnyNode[]): Registry {
  const registry = new Map<string, AnyNode>()
  for (const node of nodes) {
    if (registry.has(node.type)) throw new Error(`two nodes are called "${node.type}"`)
    registry.set(node.type, node)
  }
  return registry
}
