import { useEffect, useState } from 'react'

/** Whether Alt is held, followed while `on`; the setter tells how it began. */
export function useAlt(on: boolean): [boolean, (held: boolean) => void] {
  const [held, setHeld] = useState(false)
  useEffect(() => {
    if (!on) return
    const follow = (event: KeyboardEvent | PointerEvent): void => setHeld(event.altKey)
    window.addEventListener('keydown', follow)
    window.addEventListener('keyup', follow)
    window.addEventListener('pointermove', follow)
    return () => {
      window.removeEventListener('keydown', follow)
      window.removeEventListener('keyup', follow)
      window.removeEventListener('pointermove', follow)
    }
  }, [on])
  return [held, setHeld]
}
