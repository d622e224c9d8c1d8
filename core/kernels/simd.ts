import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import { ASSEMBLY } from './assembly.generated'

/** What core/kernels/assembly exports; each file there tells what its pointers are. */
export interface Assembly {
  blend(mode: number, base: number, source: number, mask: number, out: number, count: number, amount: number): void
  decodeSrgb(source: number, out: number, count: number): void
  encodeSrgb(source: number, out: number, count: number): void
  addScaled(to: number, from: number, weight: number, bytes: number): void
  convolve(from: number, step: number, to: number, bytes: number, taps: number, reach: number): void
  gatherAlong(row: number, step: number, weights: number, count: number, out: number, bytes: number): void
  interpolateAlong(line: number, index: number, part: number, out: number, bytes: number): void
  mixRows(a: number, b: number, t: number, out: number, bytes: number): void
  gaussian(
    source: number,
    sourceStride: number,
    out: number,
    outStride: number,
    width: number,
    rows: number,
    taps: number,
    reach: number,
    line: number,
  ): void
  noiseCorners(
    a: number,
    b: number,
    count: number,
    near: number,
    far: number,
    even: boolean,
    fy: number,
    fy1: number,
    fz: number,
    u: number,
    v: number,
    weight: number,
  ): void
  noiseSlopes(a: number, b: number, count: number, corners: number): void
  noiseOctave(
    sum: number,
    columns: number,
    along: number,
    fade: number,
    corners: number,
    width: number,
    amplitude: number,
    lift: number,
    sign: number,
  ): void
  occlusion(
    heights: number,
    heightStride: number,
    out: number,
    outStride: number,
    width: number,
    rows: number,
    looks: number,
    counts: number,
    directions: number,
    scale: number,
  ): void
}

/** Pages of WebAssembly memory, and what a program without data leaves free at the start. */
const PAGE = 65536
const START = 1024
/** Texels that a kernel works on in one go; small enough that cancelling is seen soon. */
const PIECE = 32768

/** Rows of `width` texels that make a piece of work. */
export const pieceRows = (width: number): number => Math.max(1, Math.floor(PIECE / width))

/**
 * The SIMD twins of kernels with scratch memory, one a thread. Rows of fields are copied in, a piece of work at a time,
 * and results out.
 */
export class Simd {
  private next = START

  constructor(
    readonly assembly: Assembly,
    private readonly memory: WebAssembly.Memory,
  ) {}

  /** Runs work whose scratch memory is free again after it. */
  scratch<T>(work: () => T): T {
    const before = this.next
    try {
      return work()
    } finally {
      this.next = before
    }
  }

  /** Memory for so many values of 4 bytes, not cleared; its byte offset is a multiple of 64. */
  take(count: number): number {
    const at = Math.ceil(this.next / 64) * 64
    this.next = at + count * 4
    const missing = this.next + 64 - this.memory.buffer.byteLength
    if (missing > 0) this.memory.grow(Math.ceil(missing / PAGE))
    return at
  }

  /** A view of scratch memory, until more is taken. */
  floats(at: number, count: number): Float32Array<ArrayBuffer> {
    return new Float32Array(this.memory.buffer as ArrayBuffer, at, count)
  }

  ints(at: number, count: number): Int32Array<ArrayBuffer> {
    return new Int32Array(this.memory.buffer as ArrayBuffer, at, count)
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
  if (instance === undefined) instance = start()
  return instance
}

function start(): Simd | null {
  try {
    const bytes = Uint8Array.from(atob(ASSEMBLY), (char) => char.charCodeAt(0))
    if (!WebAssembly.validate(bytes)) return null
    const memory = new WebAssembly.Memory({ initial: 1 })
    const module = new WebAssembly.Module(bytes)
    return new Simd(new WebAssembly.Instance(module, { env: { memory } }).exports as unknown as Assembly, memory)
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
