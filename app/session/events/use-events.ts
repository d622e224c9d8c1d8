import { useEffect, useRef } from 'react'
import { v4 as uuid } from 'uuid'
import type { Notice } from '../../contracts/notice'
import type { FromLine, ToLine } from './line'
import { browserLineHost, openLine, subjectOf } from './line'

interface Subscriber {
  readonly topics: readonly string[]
  receive(message: FromLine): void
}

/** This tab's end of the browser's one stream; opened at first use, never on the server. */
let tab: ReturnType<typeof openTab> | undefined

function openTab() {
  const subscribers = new Set<Subscriber>()
  const known = new Map<string, FromLine>()
  const receive = (message: FromLine): void => {
    if ('notice' in message && message.notice.type !== 'run') known.set(subjectOf(message.notice), message)
    subscribers.forEach((one) => one.receive(message))
  }
  const wants = (): string[] => [...new Set([...subscribers].flatMap(({ topics }) => topics))]
  const change = typeof SharedWorker === 'undefined' ? ownLine(receive) : sharedLine(receive)
  return {
    add(subscriber: Subscriber): () => void {
      subscribers.add(subscriber)
      known.forEach((message) => subscriber.receive(message))
      change(wants())
      return () => {
        subscribers.delete(subscriber)
        change(wants())
      }
    },
  }
}

/** Where there are no shared workers a tab has a stream of its own. */
function ownLine(receive: (message: FromLine) => void): (topics: string[]) => void {
  const line = openLine(browserLineHost)
  const listener = { post: receive }
  return (topics) => (topics.length ? line.listen(listener, topics) : line.leave(listener))
}

function sharedLine(receive: (message: FromLine) => void): (topics: string[]) => void {
  const worker = new SharedWorker(new URL('./events.worker.ts', import.meta.url), { type: 'module', name: 'events' })
  const send = (message: ToLine): void => worker.port.postMessage(message)
  worker.port.onmessage = ({ data }: MessageEvent<FromLine>) => receive(data)
  worker.port.start()
  let topics: string[] = []
  if (navigator.locks) {
    const lock = `amber-grist-tab:${uuid()}`
    void navigator.locks.request(lock, () => new Promise(() => {}))
    // Asked for after this tab has it.
    void navigator.locks.query().then(() => send({ lock }))
  }
  window.addEventListener('pagehide', () => send({ leaves: true }))
  window.addEventListener('pageshow', ({ persisted }) => persisted && topics.length > 0 && send({ wants: topics }))
  return (wanted) => {
    topics = wanted
    send(topics.length ? { wants: topics } : { leaves: true })
  }
}

/**
 * Listens to the server's events about some topics; all tabs of a browser share one stream. `onMended` runs when the line is
 * there again after it was cut: what happened meanwhile was told to nobody.
 */
export function useEvents(
  topics: readonly string[],
  onNotice: (notice: Notice) => void,
  { onMended, onCut }: { onMended?: () => void; onCut?: () => void } = {},
): void {
  const latest = useRef({ onNotice, onMended, onCut })
  useEffect(() => {
    latest.current = { onNotice, onMended, onCut }
  })
  const key = topics.join(' ')
  useEffect(() => {
    // Who wants to hear of nothing has no part in the stream.
    if (key === '') return
    tab ??= openTab()
    return tab.add({
      topics: key.split(' '),
      receive: (message) => {
        if ('notice' in message) latest.current.onNotice(message.notice)
        else if ('mended' in message) latest.current.onMended?.()
        else latest.current.onCut?.()
      },
    })
  }, [key])
}
