import type { Simd } from './simd'
import { requiredSimd } from './simd'

/*
 * Where the kernels that bake mesh data read and write.
 */

/** The kernels that mesh data is baked by. Throws memory-budget where they cannot be had. */
export const bakingSimd = (): Simd => requiredSimd('Mesh data is baked')

/** Gives room for so many numbers, not cleared. */
export type Room = (count: number) => Float32Array

/** Runs work with room in which kernels work in place; what is in it is gone when the work is done. */
export function withRoom<T>(work: (room: Room) => T): T {
  const twin = bakingSimd()
  // Few sizes, so that what was taken once fits again.
  return twin.scratch(() => work((count) => twin.floats(twin.take(2 ** Math.ceil(Math.log2(count + 1))), count)))
}

/** Room of one's own for each. */
export const ownRoom: Room = (count) => new Float32Array(count)

/** Where kernels write numbers: in place, or beside, from where `done` brings them home. */
export function roomFor(twin: Simd, out: Float32Array | Uint32Array): { readonly at: number; done(): void } {
  const here = twin.shared.offsetOf(out)
  if (here >= 0) return { at: here, done: () => {} }
  const at = twin.take(out.length)
  return {
    at,
    done: () => {
      if (out instanceof Float32Array) out.set(twin.floats(at, out.length))
      else out.set(twin.ints(at, out.length))
    },
  }
}

/** Where kernels change some of the values of an array: in place, or in a copy, from which `done` brings all home. */
export function borrowed(twin: Simd, values: Float32Array | Uint8Array): { readonly at: number; done(): void } {
  const here = twin.shared.offsetOf(values)
  if (here >= 0) return { at: here, done: () => {} }
  const own = new Uint8Array(values.buffer, values.byteOffset, values.byteLength)
  const at = twin.take(Math.ceil(own.length / 4))
  twin.bytes(at, own.length).set(own)
  return { at, done: () => own.set(twin.bytes(at, own.length)) }
}

/** Byte offset of whole numbers: in place where they lie in shared memory, else of a copy. */
export function wordsAt(twin: Simd, values: Uint32Array): number {
  const here = twin.shared.offsetOf(values)
  if (here >= 0) return here
  const at = twin.take(values.length)
  twin.ints(at, values.length).set(values)
  return at
}

/** Room for so many whole numbers. */
export function wordsIn(room: Room, count: number): Uint32Array {
  const { buffer, byteOffset } = room(count)
  return new Uint32Array(buffer, byteOffset, count)
}
