import type { Packing } from '#core/texture/packing'

/** A packing a project may use: as shipped, or its own with how often it was changed. */
export interface StoredPacking {
  readonly packing: Packing
  /** Null where it is shipped and cannot be changed. */
  readonly revision: number | null
}
