import { Heap, SharedMemory } from './heap'
import { hashInto, unitFloat } from '../random'

test('regions never overlap, and all memory is used again, whatever the order', () => {
  const shared = SharedMemory.create()!
  const heap = new Heap(shared)
  let drawn = 0
  const next = (): number => unitFloat(hashInto(7, drawn++))
  const held: Uint8Array[] = []
  for (let i = 0; i < 4000; i++) {
    if (held.length > 40 || (held.length > 0 && next() < 0.45)) {
      const [region] = held.splice(Math.floor(next() * held.length), 1)
      heap.free(region!)
    } else {
      const region = heap.allocate(1 + Math.floor(next() ** 4 * 300_000))
      expect(region.byteOffset % 64).toBe(0)
      held.push(region)
    }
  }
  held.forEach((region, i) => region.fill(i))
  held.forEach((region, i) => expect(region.every((v) => v === i % 256)).toBe(true))
  // At most 40 regions of 300 kB: what was given back was used, not more taken.
  expect(shared.buffer.byteLength).toBeLessThan(34 << 20)
  for (const region of held) heap.free(region)
  expect(heap.usedBytes).toBe(0)
})

test('a region is taken back once, and what lies elsewhere is left alone', () => {
  const heap = new Heap(SharedMemory.create()!)
  const region = heap.allocate(1000)
  const used = heap.usedBytes
  heap.free(new Uint8Array(1000))
  expect(heap.usedBytes).toBe(used)
  heap.free(region)
  heap.free(region)
  expect(heap.usedBytes).toBe(0)
  expect(heap.allocate(1000).byteOffset).toBe(region.byteOffset)
})

test('where the memory is full, it says so', () => {
  const heap = new Heap(SharedMemory.create()!)
  heap.allocate(2 ** 31)
  expect(() => heap.allocate(2 ** 31)).toThrow('There is no room for 2049 MB more')
})

test('a memory that is grown elsewhere is seen as far as it reaches', () => {
  const shared = SharedMemory.create()!
  const other = new SharedMemory(shared.memory)
  expect(other.buffer.byteLength).toBe(65536)
  const { at, bytes } = shared.grow(1 << 20)
  new Uint8Array(shared.buffer, at, bytes).fill(7)
  expect(new Uint8Array(other.reaching(at + bytes), at, bytes)[bytes - 1]).toBe(7)
})
