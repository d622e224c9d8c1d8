import type { Output } from '../document/address'
import type { MaterialDocument } from '../document/document'
import type { Registry } from '../graph/registry'
import { Composition } from './composition'

/** Why an output cannot be made as it feeds itself, with the way round; null where it does not. Other faults are not told. */
export function circleIn(document: MaterialDocument, registry: Registry, output: Output): string | null {
  const { faults } = new Composition(document, registry).find(output)
  return faults.find(({ code }) => code === 'cycle')?.detail ?? null
}
