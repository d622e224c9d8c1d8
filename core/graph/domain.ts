import type { PartFacts } from '../document/domain'

/** What of the document every step may depend on. */
export interface Domain {
  readonly seed: number
  readonly metres: readonly [number, number]
  readonly heightMetres: number
  /** The part it lies on; null on a tile, and where there is none yet. */
  readonly part: PartFacts | null
}
