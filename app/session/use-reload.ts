import { useEffect, useMemo } from 'react'
import { ask } from './ask'
import { useLoadAgain } from './use-load-again'

/** How long a page waits before it asks again whether the server is there, in milliseconds. */
const AGAIN = 2000

/**
 * Loads a page's data again; while the server or its database is away the page stays as it is, and the data come as soon as
 * they can.
 */
export function useReload(): () => void {
  const loadAgain = useLoadAgain()
  const reload = useMemo(() => {
    let timer: ReturnType<typeof setTimeout> | undefined
    const attempt = async (): Promise<void> => {
      clearTimeout(timer)
      const up = await ask('/up').then(
        ({ ok }) => ok,
        () => false,
      )
      if (up) await loadAgain()
      else timer = setTimeout(() => void attempt(), AGAIN)
    }
    return { now: () => void attempt(), end: () => clearTimeout(timer) }
  }, [loadAgain])
  useEffect(() => reload.end, [reload])
  return reload.now
}
