import { GristError } from '../errors'
import type { Allocate } from '../field/field'
import { heapHere } from '../kernels/heap-here'
import type { IslandWork } from '../kernels/island-borders'
import { IslandBlocks } from '../kernels/island-borders'

/** Who finds where islands go on: this thread, or several. */
export interface IslandThreads {
  /** Memory that they all see. */
  readonly allocate: Allocate
  /** Takes memory back that nobody uses any more. */
  readonly free: (region: ArrayBufferView) => void
  /** Does all blocks of the work, whose arrays lie in that memory. Rejects with `cancelled`. */
  doIslands(work: IslandWork, isCancelled: () => boolean): Promise<void>
}

/** Milliseconds after which others have their turn on this thread. */
const TURN = 30

/** One block after the other on this thread. */
export async function doIslandsHere(work: IslandWork, isCancelled: () => boolean): Promise<void> {
  const blocks = new IslandBlocks(work, () => {
    if (isCancelled()) throw new GristError('cancelled', 'The work was cancelled.')
  })
  let since = performance.now()
  for (let block = 0; block < IslandBlocks.count(work); block++) {
    blocks.do(block)
    if (performance.now() - since < TURN) continue
    await new Promise((resolve) => setTimeout(resolve))
    since = performance.now()
  }
}

/** This thread alone, in the memory of its kernels. Throws memory-budget where it has none that kernels can work in. */
export function islandsHere(): IslandThreads {
  const heap = heapHere()
  if (!heap) throw new GristError('memory-budget', 'This machine has no WebAssembly memory that threads can share.')
  return { allocate: heap.allocate, free: heap.free, doIslands: doIslandsHere }
}
