import { z } from 'zod'
import { fakeStorage } from '../testing/fake-storage'
import { recall, remember } from './browser-storage'

const schema = z.object({ width: z.int().min(1) })

it('gives back what was remembered, by name', () => {
  fakeStorage()
  remember('a', { width: 256 })
  remember('b', { width: 512 })
  remember('a', { width: 1024 })
  expect(recall('a', schema)).toEqual({ width: 1024 })
  expect(recall('b', schema)).toEqual({ width: 512 })
  expect(recall('c', schema)).toBeNull()
})

it.each(['', '{', 'null', '[]', '"text"', '{"width":0}', '{"width":"256"}'])('%s is not ours', (text) => {
  fakeStorage().set('a', text)
  expect(recall('a', schema)).toBeNull()
})

it('does without storage', () => {
  fakeStorage(false)
  expect(() => remember('a', { width: 1 })).not.toThrow()
  expect(recall('a', schema)).toBeNull()
})
