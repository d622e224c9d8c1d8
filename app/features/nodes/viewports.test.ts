import { fakeStorage } from '../../testing/fake-storage'
import { rememberedViewports } from './viewports'

it('how a place was looked at is there after a reload, for its document alone', () => {
  fakeStorage()
  rememberedViewports('one').set('whole', { x: 1.4, y: -20.6, zoom: 0.5 })
  expect(rememberedViewports('one').get('whole')).toEqual({ x: 1, y: -21, zoom: 0.5 })
  expect(rememberedViewports('two').get('whole')).toBeUndefined()
})

it('the last 64 places are kept', () => {
  fakeStorage()
  const views = rememberedViewports('one')
  for (let i = 0; i < 70; i++) views.set(`place ${i}`, { x: i, y: 0, zoom: 1 })
  views.set('place 6', { x: 0, y: 0, zoom: 1 })
  const again = rememberedViewports('one')
  expect(Array.from({ length: 70 }, (_, i) => i).filter((i) => again.get(`place ${i}`) === undefined)).toEqual([
    0, 1, 2, 3, 4, 5,
  ])
})

it.each(['{', '[["whole",{"x":1}]]', '[["whole",{"x":0,"y":0,"zoom":40}]]'])('%s is not ours', (text) => {
  fakeStorage().set('amber-grist-graph:one', text)
  expect(rememberedViewports('one').get('whole')).toBeUndefined()
})
