import { useEffect, useState } from 'react'

/** Keys that say what a drag comes to. */
export interface Modifiers {
  readonly alt: boolean
  /** Ctrl, or Cmd on a Mac. */
  readonly command: boolean
}

const modifiersOf = (event: KeyboardEvent | PointerEvent): Modifiers => ({
  alt: event.altKey,
  command: event.ctrlKey || event.metaKey,
})

/** Which of the keys are held, followed while `on` until the pointer is let go; the setter tells how it began. */
export function useModifiers(on: boolean): [Modifiers, (event: Event | null) => void] {
  const [held, setHeld] = useState<Modifiers>({ alt: false, command: false })
  useEffect(() => {
    if (!on) return
    const ended = new AbortController()
    const follow = (event: KeyboardEvent | PointerEvent): void =>
      setHeld((before) => {
        const now = modifiersOf(event)
        return now.alt === before.alt && now.command === before.command ? before : now
      })
    for (const name of ['keydown', 'keyup', 'pointermove'] as const)
      window.addEventListener(name, follow, { signal: ended.signal })
    const release = (event: PointerEvent): void => {
      follow(event)
      ended.abort()
    }
    window.addEventListener('pointerup', release, { capture: true, signal: ended.signal })
    return () => ended.abort()
  }, [on])
  return [held, (event) => setHeld(modifiersOf(event as PointerEvent))]
}
