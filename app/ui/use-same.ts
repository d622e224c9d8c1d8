import { useMemo } from 'react'

/** The value of before as long as this one says the same, so that effects which need it need not run again. Plain data only. */
export function useSame<T>(value: T): T {
  const text = JSON.stringify(value)
  return useMemo(() => JSON.parse(text) as T, [text])
}
