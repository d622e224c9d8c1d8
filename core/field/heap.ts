import { GristError } from '../errors'
import type { Allocate } from './field'

/** Bytes of a page of WebAssembly memory, and the most pages there are. */
const PAGE = 65536
const MAX_PAGES = 65536
/** Memory grows by at least so many bytes; what nobody writes to costs nothing. */
const STRIDE = 16 << 20
const ALIGNMENT = 64
/** Put between neighbours, so that planes of a power of two do not fall on the same lines of a processor's cache. */
const STAGGER = 320

/**
 * WebAssembly memory that all threads of an evaluation share: fields lie in it, and the SIMD twins of kernels work on
 * them in place. Any thread may grow it.
 */
export class SharedMemory {
  private readonly known = new WeakSet<ArrayBufferLike>()
  private last: ArrayBufferLike | null = null

  constructor(readonly memory: WebAssembly.Memory) {}

  /** New and empty; null where the machine has no shared memory. */
  static create(): SharedMemory | null {
    try {
      return new SharedMemory(new WebAssembly.Memory({ initial: 1, maximum: MAX_PAGES, shared: true }))
    } catch {
      return null
    }
  }

  /** All of it as it is now; another object each time it has grown, over the same bytes. */
  get buffer(): ArrayBufferLike {
    const { buffer } = this.memory
    if (buffer !== this.last) {
      this.known.add(buffer)
      this.last = buffer
    }
    return buffer
  }

  /** The same, reaching so many bytes: where another thread has grown it, this one may not have heard of it yet. */
  reaching(bytes: number): ArrayBufferLike {
    if (this.buffer.byteLength < bytes) this.memory.grow(0)
    return this.buffer
  }

  /** Byte offset of a view that lies in it; −1 for one that does not. */
  offsetOf(view: ArrayBufferView): number {
    return this.known.has(view.buffer) ? view.byteOffset : -1
  }

  /** At least so many bytes that nobody else has. Throws memory-budget where there are none left. */
  grow(bytes: number): { readonly at: number; readonly bytes: number } {
    const pages = Math.ceil(bytes / PAGE)
    try {
      return { at: this.memory.grow(pages) * PAGE, bytes: pages * PAGE }
    } catch {
      throw new GristError(
        'memory-budget',
        `There is no room for ${Math.ceil(bytes / 1048576)} MB more: all fields together may take 4096 MB. Choose a smaller size.`,
      )
    }
  }
}

/** A run of free bytes. */
interface Gap {
  at: number
  bytes: number
}

/**
 * Gives out regions of shared memory and takes them back, from one thread. What was given back is used again, joined with
 * free neighbours, the smallest gap that fits first; nothing is cleared, and memory never shrinks.
 */
export class Heap {
  /** In order of their place; no two touch. */
  private readonly gaps: Gap[] = []
  /** Bytes of each region in use, by its place. */
  private readonly regions = new Map<number, number>()
  private bytes = 0

  constructor(readonly shared: SharedMemory) {}

  /** Bytes of it that are in use. */
  get usedBytes(): number {
    return this.bytes
  }

  /** Throws memory-budget. */
  readonly allocate: Allocate = (wanted) => {
    const bytes = Math.ceil(wanted / ALIGNMENT) * ALIGNMENT + STAGGER
    const gap = this.fitting(bytes) ?? this.more(bytes)
    const { at } = gap
    gap.at += bytes
    gap.bytes -= bytes
    if (gap.bytes === 0) this.gaps.splice(this.gaps.indexOf(gap), 1)
    this.regions.set(at, bytes)
    this.bytes += bytes
    return new Uint8Array(this.shared.buffer, at, wanted)
  }

  /** Takes a region back; one that it does not know, or took back before, is left alone. */
  readonly free = (region: ArrayBufferView): void => {
    const at = this.shared.offsetOf(region)
    const bytes = this.regions.get(at)
    if (bytes === undefined) return
    this.regions.delete(at)
    this.bytes -= bytes
    this.put({ at, bytes })
  }

  private fitting(bytes: number): Gap | undefined {
    let best: Gap | undefined
    for (const gap of this.gaps) if (gap.bytes >= bytes && (!best || gap.bytes < best.bytes)) best = gap
    return best
  }

  private more(bytes: number): Gap {
    const grown = this.shared.grow(Math.max(bytes, STRIDE))
    this.put({ ...grown })
    return this.fitting(bytes)!
  }

  private put(gap: Gap): void {
    let next = this.gaps.findIndex(({ at }) => at > gap.at)
    if (next < 0) next = this.gaps.length
    const [before, after] = [this.gaps[next - 1], this.gaps[next]]
    const joinsBefore = before !== undefined && before.at + before.bytes === gap.at
    const joinsAfter = after !== undefined && gap.at + gap.bytes === after.at
    if (joinsBefore && joinsAfter) {
      before.bytes += gap.bytes + after.bytes
      this.gaps.splice(next, 1)
    } else if (joinsBefore) before.bytes += gap.bytes
    else if (joinsAfter) {
      after.at = gap.at
      after.bytes += gap.bytes
    } else this.gaps.splice(next, 0, gap)
  }
}
