import type { AnyNode } from './define-node'
import type { MaterialDocument } from '../document/document'
import { parseDocument } from '../document/document'

/** The document that shows a node's example, the node itself being called "example". */
export const exampleDocument = (node: AnyNode, params?: Record<string, unknown>): MaterialDocument =>
  parseDocument({
    format: 'amber-grist/material',
    version: 2,
    name: node.title,
    seed: 5,
    domain: { kind: 'tile', metres: [1, 1] },
    heightMetres: 0.05,
    nodes: {
      ...node.example.nodes,
      example: {
        type: node.type,
        version: node.version,
        params: { ...node.example.params, ...params },
        inputs: node.example.inputs,
      },
    },
  })
