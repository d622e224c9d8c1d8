import { Heap } from '../field/heap'
import { memoryHere } from './simd'

let heap: Heap | null = null

/** The heap of this thread's memory; null where there is none. */
export function heapHere(): Heap | null {
  const shared = memoryHere()
  if (shared && heap?.shared !== shared) heap = new Heap(shared)
  return heap
}
