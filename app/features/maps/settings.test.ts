import { STANDARD } from './maps'
import { recallSettings, rememberSettings } from './settings'

const storage = new Map<string, string>()
beforeEach(() => {
  storage.clear()
  globalThis.localStorage = {
    getItem: (key: string) => storage.get(key) ?? null,
    setItem: (key: string, value: string) => void storage.set(key, value),
  } as Storage
})

test('what was set is there again, by material; one thing set leaves the other', () => {
  rememberSettings('a', { packing: 'own' })
  rememberSettings('a', { settings: { width: 4096, dither: false, sharpen: 0.5 } })
  expect(recallSettings('a')).toEqual({ packing: 'own', settings: { width: 4096, dither: false, sharpen: 0.5 } })
  expect(recallSettings('b')).toEqual({ packing: null, settings: STANDARD })
})

test('what is not ours, or no storage at all, gives the usual settings', () => {
  for (const text of ['{', '3', '{"settings":{"width":-1,"dither":true,"sharpen":0}}', '{"packing":7}']) {
    storage.set('amber-grist-maps:a', text)
    expect(recallSettings('a')).toEqual({ packing: null, settings: STANDARD })
  }
  globalThis.localStorage = {
    getItem: () => {
      throw new Error('forbidden')
    },
    setItem: () => {
      throw new Error('forbidden')
    },
  } as never
  expect(() => rememberSettings('a', { packing: 'own' })).not.toThrow()
  expect(recallSettings('a').settings).toEqual(STANDARD)
})
