import type { Allocate } from '../field/field'
import type { Executor } from './pass'

/** Memory of one evaluation: what it holds now, and the most it held. */
export class FieldMemory {
  private readonly held = new Map<string, ArrayBufferView>()
  private readonly buffers = new WeakMap<ArrayBufferLike, number>()
  private count = 0
  private heldBytes = 0
  private peakBytes = 0

  constructor(private readonly source: Pick<Executor, 'allocate' | 'free'>) {}

  /** The most bytes that were held at one time. */
  get peak(): number {
    return this.peakBytes
  }

  readonly acquire: Allocate = (bytes) => {
    const region = this.source.allocate(bytes)
    this.held.set(this.nameOf(region), region)
    this.heldBytes += bytes
    this.peakBytes = Math.max(this.peakBytes, this.heldBytes)
    return region
  }

  give(region: ArrayBufferView): void {
    this.handOver(region)
    this.source.free(region)
  }

  /** From now on somebody else gives the region back. */
  handOver(region: ArrayBufferView): void {
    if (this.held.delete(this.nameOf(region))) this.heldBytes -= region.byteLength
  }

  /** Gives back all that is still held. */
  end(): void {
    for (const region of [...this.held.values()]) this.give(region)
  }

  /** Regions may lie in one buffer, or in one each. */
  private nameOf({ buffer, byteOffset }: ArrayBufferView): string {
    const known = this.buffers.get(buffer) ?? this.count++
    this.buffers.set(buffer, known)
    return `${known}:${byteOffset}`
  }
}
