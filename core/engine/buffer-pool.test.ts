import { createField, plainMemory } from '../field/field'
import { BufferPool } from './buffer-pool'
import { FieldCache } from './field-cache'

const grey = (pool: BufferPool) => createField('grey', 64, 64, { top: 0, rows: 64 }, pool.allocate)

it('gives memory of fields that were let go to the next ones, once nothing reads them', () => {
  const pool = new BufferPool(plainMemory, 1 << 20)
  const one = grey(pool)
  pool.reclaim(one)
  expect(grey(pool).planes[0]!.buffer).not.toBe(one.planes[0]!.buffer)
  pool.release([one])
  expect(grey(pool).planes[0]!.buffer).not.toBe(one.planes[0]!.buffer)
  pool.release([])
  expect(grey(pool).planes[0]!.buffer).toBe(one.planes[0]!.buffer)
})

it('takes every plane, and never gives one buffer twice', () => {
  const pool = new BufferPool(plainMemory, 1 << 20)
  const colour = createField('colour', 16, 16, { top: 0, rows: 16 }, pool.allocate)
  pool.reclaim(colour)
  pool.reclaim(colour)
  pool.release([])
  const again = Array.from({ length: 4 }, () => createField('grey', 16, 16, { top: 0, rows: 16 }, pool.allocate))
  const buffers = again.map((field) => field.planes[0]!.buffer)
  expect(new Set(buffers).size).toBe(4)
  expect(colour.planes.every((plane) => buffers.includes(plane.buffer))).toBe(true)
})

it('keeps no more than its budget', () => {
  let made = 0
  const pool = new BufferPool((bytes) => (made++, plainMemory(bytes)), 64 * 64 * 4)
  const fields = [grey(pool), grey(pool), grey(pool)]
  for (const field of fields) pool.reclaim(field)
  pool.release([])
  grey(pool)
  expect(made).toBe(3)
  grey(pool)
  expect(made).toBe(4)
})

it('takes what a cache drops', () => {
  const pool = new BufferPool(plainMemory, 1 << 20)
  const cache = new FieldCache(2 * 64 * 64 * 4, (field) => pool.reclaim(field))
  const [a, b, c] = [grey(pool), grey(pool), grey(pool)]
  cache.put('a', a)
  cache.put('b', b)
  cache.put('c', c)
  pool.release([])
  expect(cache.has('a')).toBe(false)
  expect(grey(pool).planes[0]!.buffer).toBe(a.planes[0]!.buffer)
})
