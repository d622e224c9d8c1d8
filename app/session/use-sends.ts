import { startTransition, useCallback, useRef, useState } from 'react'
import type { SubmitOptions, SubmitTarget } from 'react-router'
import { useFetcher } from 'react-router'
import { useLoadAgain, watchLoads } from './use-load-again'

/** The fields of a form, or what goes as JSON. */
type Request = Readonly<Record<string, string>> | object

const AS_FORM: SubmitOptions = { method: 'post' }
const AS_JSON: SubmitOptions = { method: 'post', encType: 'application/json' }

/**
 * Sends to the page's own action, one request after the other: a fetcher by itself breaks off the request before, which may not have
 * reached the server yet. `waiting` is, in order, what has not been answered or is not in the page's data yet; `data` the newest answer.
 */
export function useSends<T extends Request, Data = unknown>(as: 'form' | 'json') {
  const fetcher = useFetcher<Data>()
  const { submit } = fetcher
  const loadAgain = useLoadAgain()
  const [waiting, setWaiting] = useState<readonly T[]>([])
  const last = useRef(Promise.resolve())
  const send = useCallback(
    (request: T): void => {
      setWaiting((before) => [...before, request])
      const next = async (): Promise<void> => {
        const loadedMeanwhile = watchLoads()
        try {
          await submit(request as SubmitTarget, as === 'json' ? AS_JSON : AS_FORM)
          if (loadedMeanwhile()) await loadAgain()
        } finally {
          // Together with what the loaders have of it now, which comes by a transition too: not a moment without either.
          startTransition(() => setWaiting((before) => before.filter((one) => one !== request)))
        }
      }
      last.current = last.current.then(next, next)
    },
    [submit, loadAgain, as],
  )
  return { send, waiting, data: fetcher.data }
}
