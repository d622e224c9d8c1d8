import { fakeStorage } from '../../testing/fake-storage'
import { STANDARD } from './maps'
import { recallSettings, rememberSettings } from './settings'

let storage: Map<string, string>
beforeEach(() => (storage = fakeStorage()))

test('what was set is there again, by material; one thing set leaves the other', () => {
  rememberSettings('a', { packing: 'own' })
  rememberSettings('a', {
    settings: { width: 4096, dither: false, sharpen: 0.5, own: { layers: { a: { off: true } } } },
  })
  expect(recallSettings('a')).toEqual({
    packing: 'own',
    settings: { width: 4096, dither: false, sharpen: 0.5, own: { layers: { a: { off: true } } } },
  })
  expect(recallSettings('b')).toEqual({ packing: null, settings: STANDARD })
})

test('what is not ours, or no storage at all, gives the usual settings', () => {
  for (const text of ['{', '3', '{"settings":{"width":-1,"dither":true,"sharpen":0}}', '{"packing":7}']) {
    storage.set('amber-grist-maps:a', text)
    expect(recallSettings('a')).toEqual({ packing: null, settings: STANDARD })
  }
  fakeStorage(false)
  expect(() => rememberSettings('a', { packing: 'own' })).not.toThrow()
  expect(recallSettings('a').settings).toEqual(STANDARD)
})
