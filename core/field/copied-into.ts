import type { Allocate } from './field'

type Numbers = Float64Array | Float32Array | Int32Array | Uint32Array | Uint8Array

/** The same numbers in memory that is given for them. */
export function copiedInto<T extends Numbers>(allocate: Allocate, values: T): T {
  const { buffer, byteOffset } = allocate(Math.max(4, values.byteLength))
  const View = values.constructor as new (buffer: ArrayBufferLike, at: number, length: number) => T
  const own = new View(buffer, byteOffset, values.length)
  own.set(values)
  return own
}
