import { GristError } from '../errors'
import type { Allocate, Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import { SharedMemory } from '../field/heap'
import type { Rows } from './rows'
import type { Assembly } from './assembly.generated'
import { ASSEMBLY } from './assembly.generated'

/** A plane of a field. */
export type PlaneOf = readonly [Field, Float32Array]

/** Texels that a kernel works on in one go; small enough that cancelling is seen soon. */
const PIECE = 32768
/** Scratch memory is taken from the shared memory in chunks of at least so many bytes. */
const CHUNK = 1 << 20

/** Rows of `width` texels that make a piece of work. */
export const pieceRows = (width: number): number => Math.max(1, Math.floor(PIECE / width))

/**
 * The SIMD twins of kernels, and scratch memory, for one thread. They work in the memory that the thread shares with
 * others: fields that lie in it are read and written in place, others are copied to scratch memory and back.
 */
export class Simd {
  /** Scratch memory that is this thread's alone, and how far it is taken: a stack over chunks. */
  private readonly chunks: { readonly at: number; readonly bytes: number }[] = []
  private chunk = -1
  private next = 0

  constructor(
    readonly assembly: Assembly,
    readonly shared: SharedMemory,
  ) {}

  /** Runs work whose scratch memory is free again after it. */
  scratch<T>(work: () => T): T {
    const { chunk, next } = this
    try {
      return work()
    } finally {
      this.chunk = chunk
      this.next = next
    }
  }

  /** Memory for so many values of 4 bytes, not cleared; its byte offset is a multiple of 64. */
  take(count: number): number {
    // Whole vectors may be read and written, so some more.
    const bytes = Math.ceil((count * 4 + 64) / 64) * 64
    for (;;) {
      const chunk = this.chunks[this.chunk]
      if (chunk && this.next + bytes <= chunk.at + chunk.bytes) break
      this.chunk++
      if (this.chunk === this.chunks.length) this.chunks.push(this.shared.grow(Math.max(CHUNK, bytes)))
      this.next = this.chunks[this.chunk]!.at
    }
    const at = this.next
    this.next += bytes
    return at
  }

  /** The same as bytes, for fields. */
  readonly allocate: Allocate = (bytes) => {
    // Taking memory may make another object of it.
    const at = this.take(bytes / 4)
    return new Uint8Array(this.shared.buffer, at, bytes)
  }

  /** A view of memory. */
  floats(at: number, count: number): Float32Array {
    return new Float32Array(this.shared.buffer, at, count)
  }

  bytes(at: number, count: number): Uint8Array {
    return new Uint8Array(this.shared.buffer, at, count)
  }

  ints(at: number, count: number): Int32Array {
    return new Int32Array(this.shared.buffer, at, count)
  }

  /**
   * Byte offset of rows `from` to `to` of a plane, one after the other: in place where they lie so in shared memory, else
   * of a copy at `room`.
   */
  rowsOf(field: Field, plane: Float32Array, from: number, to: number, room: number): number {
    const at = this.inPlace(field, plane, from, to)
    if (at >= 0) return at
    this.copyIn(field, plane, from, to, room)
    return room
  }

  /** Byte offset where rows of an output may be written, whole vectors: in place, or `room`. Then comes `written`. */
  target(out: Field, plane: Float32Array, from: number, to: number, room: number): number {
    const at = ((to - from) * out.width) % 4 === 0 ? this.inPlace(out, plane, from, to) : -1
    return at >= 0 ? at : room
  }

  /** Brings rows of an output home that were written to `at`. */
  written(at: number, out: Field, plane: Float32Array, from: number, to: number, room: number): void {
    if (at === room) this.copyOut(at, out, plane, from, to)
  }

  /**
   * Calls `work` for runs of rows, a piece at a time, with the byte offsets of planes to read and to write there; it may go
   * on to whole vectors.
   */
  runs(
    rows: Rows,
    width: number,
    inputs: readonly PlaneOf[],
    outputs: readonly PlaneOf[],
    work: (count: number, inputs: readonly number[], outputs: readonly number[]) => void,
  ): void {
    this.scratch(() => {
      const piece = pieceRows(width)
      const inRooms = inputs.map(() => this.take(piece * width))
      const outRooms = outputs.map(() => this.take(piece * width))
      for (let y = rows.from; y < rows.to; y += piece) {
        rows.check()
        const to = Math.min(rows.to, y + piece)
        const from = inputs.map(([field, plane], i) => this.rowsOf(field, plane, y, to, inRooms[i]!))
        const targets = outputs.map(([field, plane], i) => this.target(field, plane, y, to, outRooms[i]!))
        work((to - y) * width, from, targets)
        outputs.forEach(([field, plane], i) => this.written(targets[i]!, field, plane, y, to, outRooms[i]!))
      }
    })
  }

  /** Memory that holds where several planes lie, for kernels that take many of them. */
  offsets(planes: readonly number[]): number {
    const at = this.take(planes.length)
    this.ints(at, planes.length).set(planes)
    return at
  }

  /** Memory that holds a value four times, for kernels that read the same vector again and again. */
  splat(value: number): number {
    const at = this.take(4)
    this.floats(at, 4).fill(value)
    return at
  }

  /** Byte offset of all rows of a plane, from the first that it holds: in place, or of a copy. */
  allRows(field: Field, plane: Float32Array): number {
    const at = field.stride === field.width ? this.shared.offsetOf(plane) : -1
    if (at >= 0) return at
    const room = this.take(field.rows * field.width)
    const top = field.rows === field.height ? 0 : field.top
    this.copyIn(field, plane, top, top + field.rows, room)
    return room
  }

  /** Byte offset of numbers: in place where they lie in shared memory, else of a copy. */
  allOf(values: Float32Array): number {
    const at = this.shared.offsetOf(values)
    if (at >= 0) return at
    const room = this.take(values.length)
    this.floats(room, values.length).set(values)
    return room
  }

  /** Byte offsets of arrays that all lie in shared memory; null where one does not. */
  inPlaceAll(arrays: readonly ArrayBufferView[]): number[] | null {
    const at = arrays.map((array) => this.shared.offsetOf(array))
    return at.includes(-1) ? null : at
  }

  private inPlace(field: Field, plane: Float32Array, from: number, to: number): number {
    const start = field.stride === field.width ? this.shared.offsetOf(plane) : -1
    if (start < 0) return -1
    const first = rowStart(field, from)
    return first / field.width + to - from <= field.rows ? start + first * 4 : -1
  }

  /** Copies rows `from` to `to` of a plane to `at`, each `stride` values after the one before. */
  copyIn(field: Field, plane: Float32Array, from: number, to: number, at: number, stride = field.width): void {
    const { width } = field
    const target = this.floats(at, (to - from - 1) * stride + width)
    if (stride === width && field.stride === width) {
      // Runs of rows that follow each other in the field, as it wraps.
      for (let y = from; y < to;) {
        const start = rowStart(field, y)
        const rows = Math.min(to - y, field.rows - start / width)
        target.set(plane.subarray(start, start + rows * width), (y - from) * width)
        y += rows
      }
      return
    }
    for (let y = from; y < to; y++) {
      const start = rowStart(field, y)
      target.set(plane.subarray(start, start + width), (y - from) * stride)
    }
  }

  /** Copies rows `from` to `to` of a field's plane from `at`. */
  copyOut(at: number, field: Field, plane: Float32Array, from: number, to: number): void {
    const { width } = field
    const source = this.floats(at, (to - from) * width)
    for (let y = from; y < to;) {
      const start = rowStart(field, y)
      const rows = Math.min(to - y, field.rows - start / width)
      plane.set(source.subarray((y - from) * width, (y - from + rows) * width), start)
      y += rows
    }
  }

  /** As copyIn, with `pad` columns more on each side, as rows wrap; `at` is the first texel's, `stride` has room for them. */
  copyPadded(
    field: Field,
    plane: Float32Array,
    from: number,
    to: number,
    at: number,
    stride: number,
    pad: number,
  ): void {
    this.copyIn(field, plane, from, to, at, stride)
    const { width } = field
    const all = this.floats(at - pad * 4, (to - from - 1) * stride + width + 2 * pad)
    for (let row = 0; row < to - from; row++) {
      const start = row * stride
      if (pad <= width) {
        all.copyWithin(start, start + width, start + width + pad)
        all.copyWithin(start + pad + width, start + pad, start + 2 * pad)
      } else
        for (let x = 0; x < pad; x++) {
          all[start + x] = all[start + pad + floorMod(x - pad, width)]!
          all[start + pad + width + x] = all[start + pad + floorMod(width + x, width)]!
        }
    }
  }
}

let instance: Simd | null | undefined
let isOff = false

/** The twins of this thread; null where there is no SIMD, or where a test asks for the definitions. */
export function simd(): Simd | null {
  if (isOff) return null
  if (instance === undefined) instance = start(SharedMemory.create())
  return instance
}

/** The memory that this thread's twins work in; null where it has none. */
export const memoryHere = (): SharedMemory | null => simd()?.shared ?? null

/** Twins of this thread in memories that others gave it, by their numbers: each has scratch memory of its own there. */
const given = new Map<number, Simd | null>()

/**
 * From now on this thread works in a memory that another thread gave it. Messages make another object of a memory each time, so it goes by
 * a number; `inUse` are those of all that are still worked in, others are let go.
 */
export function useMemory(memory: WebAssembly.Memory, number: number, inUse: readonly number[]): void {
  for (const known of given.keys()) if (!inUse.includes(known)) given.delete(known)
  if (!given.has(number)) given.set(number, start(new SharedMemory(memory)))
  instance = given.get(number)!
}

let compiled: WebAssembly.Module | null = null

function start(shared: SharedMemory | null): Simd | null {
  try {
    if (!shared) return null
    compiled ??= new WebAssembly.Module(Uint8Array.from(atob(ASSEMBLY), (char) => char.charCodeAt(0)))
    const { memory } = shared
    const { exports } = new WebAssembly.Instance(compiled, { env: { memory } })
    return new Simd(exports as unknown as Assembly, shared)
  } catch {
    // No WebAssembly, or a policy against it: the definitions compute the same, more slowly.
    return null
  }
}

/** Runs work by the definitions alone. */
export function withoutSimd<T>(work: () => T): T {
  const before = isOff
  isOff = true
  try {
    return work()
  } finally {
    isOff = before
  }
}

/** Kernels of which there is no plain twin. Throws memory-budget where they cannot be had; `what` is done by them. */
export function requiredSimd(what: string): Simd {
  const twin = simd()
  if (!twin)
    throw new GristError(
      'memory-budget',
      `${what} by WebAssembly with SIMD and shared memory, which this machine does not offer.`,
    )
  return twin
}
