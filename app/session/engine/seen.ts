import { createStore } from 'zustand/vanilla'

/** Beyond the edge of what scrolls, this much counts as seen, so that what scrolls in is there. */
const AHEAD = '96px'

/** Tells which elements are on screen. The browser's IntersectionObserver, or what a test puts in its place. */
export type Watcher = (
  changed: (entries: readonly { target: Element; isIntersecting: boolean }[]) => void,
) => Pick<IntersectionObserver, 'observe' | 'unobserve'>

const browserWatcher: Watcher = (changed) => {
  // Not all type libraries know scrollMargin, which panes that scroll need.
  const options: IntersectionObserverInit & { scrollMargin: string } = { scrollMargin: AHEAD }
  return new IntersectionObserver(changed, options)
}

/**
 * What is on screen of what the workers could make, by name; the rest need not be evaluated. Several elements may stand for
 * one name.
 */
export function createSeen(watcher: Watcher = browserWatcher) {
  const store = createStore<ReadonlySet<string>>(() => new Set())
  const nameOf = new Map<Element, string>()
  const visible = new Set<Element>()
  /** Names whose elements went in this very moment: what takes their place at once stands where they stood. */
  const leaving = new Set<string>()
  let observer: ReturnType<Watcher> | null = null

  /** Makes the set anew where it differs. */
  function tell(): void {
    const now = new Set([...visible].map((element) => nameOf.get(element)!))
    const before = store.getState()
    if (now.size !== before.size || [...now].some((name) => !before.has(name))) store.setState(now, true)
  }

  return {
    store,
    /** Watches an element that stands for a name, until the function it gives is called. */
    watch(element: Element, name: string): () => void {
      observer ??= watcher((entries) => {
        for (const { target, isIntersecting } of entries)
          if (isIntersecting && nameOf.has(target)) visible.add(target)
          else visible.delete(target)
        tell()
      })
      nameOf.set(element, name)
      observer.observe(element)
      if (leaving.has(name)) {
        visible.add(element)
        tell()
      }
      return () => {
        observer!.unobserve(element)
        nameOf.delete(element)
        if (!visible.delete(element)) return
        leaving.add(name)
        queueMicrotask(() => leaving.delete(name))
        tell()
      }
    },
  }
}

export type Seen = ReturnType<typeof createSeen>

/** The name of a layer's band of mean colour. */
export const bandName = (layer: string): string => `band ${layer}`
