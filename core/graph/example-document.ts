import type { AnyNode } from './define-node'
import { EXAMPLE_PART, exampleMeshData } from './example-part'
import type { RasterImage } from '../field/pyramid'
import type { MaterialDocument } from '../document/document'
import { parseDocument } from '../document/document'

/** The document that shows a node's example, the node itself being called "example". */
export const exampleDocument = (node: AnyNode, params?: Record<string, unknown>): MaterialDocument =>
  parseDocument({
    format: 'amber-grist/material',
    version: 2,
    name: node.title,
    seed: 5,
    domain: node.example.onPart ? { kind: 'part', on: EXAMPLE_PART } : { kind: 'tile', metres: [1, 1] },
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

/** What an example reads by reference: images of its own, and mesh data of the examples' part. */
export const exampleImage = (node: AnyNode, name: string): RasterImage =>
  node.example.images?.[name]?.() ?? exampleMeshData(name)!
