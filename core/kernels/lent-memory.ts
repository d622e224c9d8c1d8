import { copiedInto } from '../field/copied-into'
import type { Allocate } from '../field/field'

type ViewOf<T> = {
  readonly BYTES_PER_ELEMENT: number
  new (buffer: ArrayBufferLike, at: number, length: number): T
}
type Numbers = Float64Array | Float32Array | Int32Array | Uint32Array | Uint8Array

/** Memory that kernels work in, taken for one piece of work: `end` gives all back that is not kept. */
export class LentMemory {
  private readonly taken = new Set<ArrayBufferView>()

  constructor(
    private readonly heap: { readonly allocate: Allocate; readonly free: (region: ArrayBufferView) => void },
  ) {}

  /** Room for so many numbers, not cleared. */
  room<T extends Numbers>(View: ViewOf<T>, length: number): T {
    const { buffer, byteOffset } = this.heap.allocate(Math.max(8, length * View.BYTES_PER_ELEMENT))
    const view = new View(buffer, byteOffset, length)
    this.taken.add(view)
    return view
  }

  /** The same numbers in such memory. */
  copied<T extends Numbers>(values: T): T {
    const view = copiedInto(this.heap.allocate, values)
    this.taken.add(view)
    return view
  }

  /** What `end` leaves alone. */
  keep(view: ArrayBufferView): void {
    this.taken.delete(view)
  }

  giveBack(...views: readonly ArrayBufferView[]): void {
    for (const view of views) {
      this.taken.delete(view)
      this.heap.free(view)
    }
  }

  end(): void {
    this.giveBack(...this.taken)
  }
}
