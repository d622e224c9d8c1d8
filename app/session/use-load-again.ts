import { useCallback } from 'react'
import { useRevalidator } from 'react-router'

const loads = { begun: 0, running: 0 }

/**
 * Tells, when asked, whether any load of this file's ran from now until then. What it brings may be older than an answer
 * that came meanwhile: the router does not put a load and what a fetcher sends in order.
 */
export function watchLoads(): () => boolean {
  const { begun, running } = loads
  return () => running > 0 || loads.begun > begun
}

/** Loads a page's data again; settles when they have come, or another load of them that began later. */
export function useLoadAgain(): () => Promise<void> {
  const { revalidate } = useRevalidator()
  return useCallback(async () => {
    loads.begun++
    loads.running++
    try {
      await revalidate()
    } finally {
      loads.running--
    }
  }, [revalidate])
}
