import { useEffect, useRef } from 'react'
import type { Notice } from '../server/watch.server'

/** Listens to the server's events; the browser reconnects by itself. `onOpen` runs at each connection. */
export function useEvents(address: string, onNotice: (notice: Notice) => void, onOpen?: () => void): void {
  const latest = useRef({ onNotice, onOpen })
  useEffect(() => {
    latest.current = { onNotice, onOpen }
  })
  useEffect(() => {
    const source = new EventSource(address)
    source.onopen = () => latest.current.onOpen?.()
    source.onmessage = ({ data }) => latest.current.onNotice(JSON.parse(data as string) as Notice)
    return () => source.close()
  }, [address])
}
