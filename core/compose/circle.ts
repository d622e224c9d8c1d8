import type { Output } from '../document/address'
import type { MaterialDocument } from '../document/document'
import { GristError } from '../errors'
import type { Registry } from '../graph/registry'
import { Composition } from './composition'

/** Why an output cannot be made as it feeds itself, with the way round; null where it does not. Other faults are not told. */
export function circleIn(document: MaterialDocument, registry: Registry, output: Output): string | null {
  try {
    new Composition(document, registry).ref(output)
    return null
  } catch (error) {
    return error instanceof GristError && error.code === 'cycle' ? error.detail : null
  }
}
