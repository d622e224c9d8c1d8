import { useEffect, useState } from 'react'

/** Whether Alt is held, followed while `on` until the pointer is let go; the setter tells how it began. */
export function useAlt(on: boolean): [boolean, (held: boolean) => void] {
  const [held, setHeld] = useState(false)
  useEffect(() => {
    if (!on) return
    const ended = new AbortController()
    const follow = (event: KeyboardEvent | PointerEvent): void => setHeld(event.altKey)
    for (const name of ['keydown', 'keyup', 'pointermove'] as const)
      window.addEventListener(name, follow, { signal: ended.signal })
    const release = (event: PointerEvent): void => {
      follow(event)
      ended.abort()
    }
    window.addEventListener('pointerup', release, { capture: true, signal: ended.signal })
    return () => ended.abort()
  }, [on])
  return [held, setHeld]
}
