import type { Band } from '../engine/planned-step'
import { parseOutput } from '../document/address'
import type { Executor } from '../engine/pass'
import { hashBytes } from '../hash'
import type { Field } from '../field/field'
import type { AnyNode } from '../graph/define-node'
import type { MaterialDocument } from '../document/document'
import { parseDocument } from '../document/document'
import { exampleDocument, exampleImage } from '../graph/example-document'
import { materialHere } from './material-here'

/** A document of defaults, with what a test is about on top. */
export const documentOf = (parts: Record<string, unknown>): MaterialDocument =>
  parseDocument({
    format: 'amber-grist/material',
    version: 2,
    name: 'test',
    seed: 5,
    domain: { kind: 'tile', metres: [1, 1] },
    heightMetres: 0.05,
    ...parts,
  })

/** Evaluates outputs of a document on this thread. */
export async function evaluateOutputs(
  document: MaterialDocument,
  outputs: readonly string[],
  width: number,
  options: { band?: Band; executor?: Executor; node?: AnyNode; budgetBytes?: number } = {},
) {
  const { band, budgetBytes, node, executor } = options
  const images = { load: async (name: string) => exampleImage(node!, name) }
  return materialHere(document, { executor, images }).evaluate({
    outputs: outputs.map(parseOutput),
    width,
    band,
    budgetBytes,
  })
}

/** All outputs of a node's example, by port. */
export async function evaluateExample(
  node: AnyNode,
  width: number,
  options: { band?: Band; params?: Record<string, unknown>; executor?: Executor } = {},
): Promise<Map<string, Field>> {
  const outputs = Object.keys(node.outputs).map((port) => `example.${port}`)
  const { fields } = await evaluateOutputs(exampleDocument(node, options.params), outputs, width, { ...options, node })
  return new Map([...fields].map(([name, field]) => [name.slice('example.'.length), field]))
}

/** Size at which examples are hashed; large enough for pyramids and ring searches to show. */
export const HASH_WIDTH = 96

/** The bits of a field's planes, for comparing exactly. */
export const bitsOf = (field: Field): Uint32Array[] =>
  field.ids ? [field.ids] : field.planes.map((plane) => new Uint32Array(plane.buffer, plane.byteOffset, plane.length))

/** SHA-256 over the bits of every output of a node's example. */
export async function exampleHash(node: AnyNode, executor?: Executor): Promise<string> {
  const fields = await evaluateExample(node, HASH_WIDTH, { executor })
  const parts = [...fields].flatMap(([port, field]) =>
    bitsOf(field).map((bits) => `${port} ${hashBytes(new Uint8Array(bits.buffer, bits.byteOffset, bits.byteLength))}`),
  )
  return hashBytes(new TextEncoder().encode(parts.join('\n')))
}
