import type { Allocate } from '../field/field'

/**
 * Memory of one evaluation. What is given back is kept for fields of the same size, and counts as held until it is let go
 * to make room for others.
 */
export class FieldMemory {
  private readonly spare = new Map<number, ArrayBufferLike[]>()
  private heldBytes = 0
  private peakBytes = 0
  private budgetBytes = Infinity

  constructor(
    private readonly allocate: Allocate,
    private readonly letGo: (buffer: ArrayBufferLike) => void = () => {},
  ) {}

  /** From now on at most so many bytes are held, as long as they are enough for what is in use. */
  keepTo(budgetBytes: number): void {
    this.budgetBytes = budgetBytes
  }

  /** Bytes in use and bytes kept for reuse. */
  get held(): number {
    return this.heldBytes
  }

  /** The most that was held at one time. */
  get peak(): number {
    return this.peakBytes
  }

  readonly acquire: Allocate = (bytes) => {
    const found = this.spare.get(bytes)?.pop()
    if (found) return found
    if (this.heldBytes + bytes > this.budgetBytes) this.trim(this.heldBytes + bytes - this.budgetBytes)
    this.heldBytes += bytes
    this.peakBytes = Math.max(this.peakBytes, this.heldBytes)
    return this.allocate(bytes)
  }

  give(buffer: ArrayBufferLike): void {
    const list = this.spare.get(buffer.byteLength)
    if (list) list.push(buffer)
    else this.spare.set(buffer.byteLength, [buffer])
  }

  /** Lets spare buffers go until `bytes` are free, the largest first. */
  private trim(bytes: number): void {
    let missing = bytes
    for (const size of [...this.spare.keys()].sort((a, b) => b - a)) {
      const list = this.spare.get(size)!
      while (missing > 0 && list.length > 0) {
        this.letGo(list.pop()!)
        this.heldBytes -= size
        missing -= size
      }
      if (list.length === 0) this.spare.delete(size)
    }
  }
}
