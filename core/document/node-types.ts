/** What edits of a document need to know of a node type; node definitions (core/graph/define-node.ts) have it all. */
export interface NodeType {
  readonly type: string
  readonly version: number
  /** By port name, in their order. */
  readonly inputs: Readonly<Record<string, unknown>>
}

export type NodeTypes = ReadonlyMap<string, NodeType>
