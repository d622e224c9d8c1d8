import type { SharedMemory } from './heap'

/** Typed arrays as they lie in shared memory, told to another thread, which has another object for the same memory. */
interface Place {
  readonly view: 'Float32Array' | 'Float64Array' | 'Uint32Array' | 'Int32Array' | 'Uint8Array'
  readonly at: number
  readonly length: number
}
const VIEWS = { Float32Array, Float64Array, Uint32Array, Int32Array, Uint8Array }

const isPlace = (value: object): value is Place => 'view' in value && 'at' in value && 'length' in value

/** The same members with the places of typed arrays that lie in shared memory; others are copied with the message. */
export function withPlaces(value: unknown, shared: SharedMemory): unknown {
  if (ArrayBuffer.isView(value)) {
    const at = shared.offsetOf(value)
    const { length } = value as Uint8Array
    return at < 0 ? value : ({ view: value.constructor.name as Place['view'], at, length } satisfies Place)
  }
  return mapped(value, (one) => withPlaces(one, shared))
}

/** The other way round, on the thread that was told. */
export function withViews(value: unknown, shared: SharedMemory): unknown {
  if (ArrayBuffer.isView(value)) return value
  if (typeof value === 'object' && value !== null && isPlace(value)) {
    const View = VIEWS[value.view] as new (buffer: ArrayBufferLike, at: number, length: number) => ArrayBufferView
    return new View(
      shared.reaching(value.at + value.length * VIEWS[value.view].BYTES_PER_ELEMENT),
      value.at,
      value.length,
    )
  }
  return mapped(value, (one) => withViews(one, shared))
}

function mapped(value: unknown, change: (one: unknown) => unknown): unknown {
  if (Array.isArray(value)) return value.map(change)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(Object.entries(value).map(([name, one]) => [name, change(one)]))
}
