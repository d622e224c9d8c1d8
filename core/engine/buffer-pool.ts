import type { Allocate, Field } from '../field/field'
import { fieldBuffers } from '../field/field'

/**
 * Memory of fields that a cache let go, for the next fields of the same size. Without it a long drag grew by 900 MB a
 * minute: engines collect shared memory late, as it weighs nothing on their own heap.
 * A field let go may still be read by an evaluation under way, so its memory waits until `settle` says that none is.
 */
export class BufferPool {
  private readonly spare = new Map<number, ArrayBufferLike[]>()
  private readonly waiting = new Set<ArrayBufferLike>()
  private spareBytes = 0

  /** At most `budgetBytes` are kept for reuse; what is beyond is left to the collector. */
  constructor(
    private readonly fresh: Allocate,
    private readonly budgetBytes: number,
  ) {}

  /** Memory of a size, not cleared. */
  readonly allocate: Allocate = (bytes) => {
    const found = this.spare.get(bytes)?.pop()
    if (!found) return this.fresh(bytes)
    this.spareBytes -= bytes
    return found
  }

  /** A field that the cache no longer holds. */
  reclaim(field: Field): void {
    for (const buffer of fieldBuffers(field)) this.waiting.add(buffer)
  }

  /** No evaluation is under way; of what was let go, only `live` fields are still read. */
  release(live: Iterable<Field>): void {
    const inUse = new Set([...live].flatMap(fieldBuffers))
    for (const buffer of this.waiting) {
      if (inUse.has(buffer)) continue
      this.waiting.delete(buffer)
      if (this.spareBytes + buffer.byteLength > this.budgetBytes) continue
      this.spareBytes += buffer.byteLength
      const list = this.spare.get(buffer.byteLength)
      if (list) list.push(buffer)
      else this.spare.set(buffer.byteLength, [buffer])
    }
  }
}
