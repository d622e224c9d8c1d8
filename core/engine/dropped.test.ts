import { createField } from '../field/field'
import { Heap, SharedMemory } from '../field/heap'
import { Dropped } from './dropped'
import { FieldCache } from './field-cache'

const start = () => {
  const heap = new Heap(SharedMemory.create()!)
  const dropped = new Dropped(heap.free)
  const field = (type: 'grey' | 'colour' = 'grey') => createField(type, 64, 64, { top: 0, rows: 64 }, heap.allocate)
  return { heap, dropped, field }
}

it('gives memory of fields back once nothing reads them, every plane once', () => {
  const { heap, dropped, field } = start()
  const one = field('colour')
  const all = heap.usedBytes
  dropped.addField(one)
  dropped.addField(one)
  expect(heap.usedBytes).toBe(all)
  dropped.release([one])
  expect(heap.usedBytes).toBe(all)
  dropped.release([])
  expect(heap.usedBytes).toBe(0)
  dropped.release([])
  expect(heap.usedBytes).toBe(0)
})

it('takes what a cache drops', () => {
  const { heap, dropped, field } = start()
  const cache = new FieldCache(2 * 64 * 64 * 4, dropped.addField)
  for (const name of ['a', 'b', 'c']) cache.put(name, field())
  const before = heap.usedBytes
  dropped.release([])
  expect(cache.has('a')).toBe(false)
  expect(heap.usedBytes).toBeLessThan(before)
})
