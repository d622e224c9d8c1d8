import type { Output } from '../document/address'
import { formatOutput } from '../document/address'
import type { MaterialDocument } from '../document/document'
import type { GristError } from '../errors'
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

/** A graph of what could be built, and what is wrong with its outputs: with those that are there, too. */
export interface PartialGraph extends Graph {
  readonly faults: ReadonlyMap<string, GristError>
}

/** What of `outputs` a composition has, and what is wrong: what cannot be made takes nothing with it. */
export function expandPartial(
  composition: Composition,
  outputs: readonly Output[],
  options: OutputOptions = {},
): PartialGraph {
  const refs = new Map<string, PortRef>()
  const faults = new Map<string, GristError>()
  for (const output of outputs) {
    const found = composition.find(output, options)
    if (found.ref) refs.set(formatOutput(output), found.ref)
    // Of a node its own fault tells more than one of what feeds it.
    const own = output.kind === 'port' && found.faults.find(({ place }) => place.node === output.node)
    const fault = own || found.faults[0]
    if (fault) faults.set(formatOutput(output), fault)
  }
  return { ...composition.graph, outputs: refs, faults }
}
