import type { Field } from '../field/field'
import { fieldPlanes } from '../field/field'

/**
 * Fields that a cache let go, until nobody reads them: their memory goes back once no evaluation is under way. Without it
 * a long drag grew by 900 MB a minute.
 */
export class DroppedFields {
  private waiting = new Set<Field>()

  constructor(private readonly free: (region: ArrayBufferView) => void) {}

  /** A field that the cache no longer holds. */
  add(field: Field): void {
    this.waiting.add(field)
  }

  /** No evaluation is under way; of what was let go, only `live` fields are still read. */
  release(live: Iterable<Field>): void {
    const inUse = new Set(live)
    for (const field of this.waiting) {
      if (inUse.has(field)) continue
      this.waiting.delete(field)
      for (const plane of fieldPlanes(field)) this.free(plane)
    }
  }
}
