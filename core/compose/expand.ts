import type { Output } from '../document/address'
import { formatOutput } from '../document/address'
import type { MaterialDocument } from '../document/document'
import { GristError } from '../errors'
import type { Graph, PortRef } from '../graph/graph'
import type { Registry } from '../graph/registry'
import { Composition } from './composition'
import type { OutputOptions } from './outputs'

/**
 * A document as a graph that gives `outputs`, found in it by their texts.
 * Throws reference-unknown, cycle (with the whole path), type-mismatch, parameter-invalid and others.
 */
export function expandDocument(
  document: MaterialDocument,
  registry: Registry,
  outputs: readonly Output[],
  options: OutputOptions = {},
): Graph {
  const composition = new Composition(document, registry)
  const refs = new Map(outputs.map((output) => [formatOutput(output), composition.ref(output, options)]))
  return { ...composition.graph, outputs: refs }
}

/** A graph of what could be built, and why the rest could not. */
export interface PartialGraph extends Graph {
  readonly faults: ReadonlyMap<string, GristError>
}

/** What of `outputs` a composition has, and why it lacks the others: one that cannot be built takes no other with it. */
export function expandPartial(
  composition: Composition,
  outputs: readonly Output[],
  options: OutputOptions = {},
): PartialGraph {
  const refs = new Map<string, PortRef>()
  const faults = new Map<string, GristError>()
  for (const output of outputs)
    try {
      refs.set(formatOutput(output), composition.ref(output, options))
    } catch (error) {
      if (!(error instanceof GristError)) throw error
      faults.set(formatOutput(output), error)
    }
  return { ...composition.graph, outputs: refs, faults }
}
