/** Stands in for a browser's storage from here on; empty, or closed so that every use of it throws. */
export function fakeStorage(open = true): Map<string, string> {
  const items = new Map<string, string>()
  const refuse = (): never => {
    throw new Error('Storage is closed.')
  }
  globalThis.localStorage = {
    getItem: open ? (key: string) => items.get(key) ?? null : refuse,
    setItem: open ? (key: string, value: string) => void items.set(key, value) : refuse,
  } as Storage
  return items
}
