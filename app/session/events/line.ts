import type { Notice } from '../../contracts/notice'

/** What a page tells whoever holds the browser's one stream of events. */
export type ToLine = { wants: readonly string[] } | { leaves: true } | { lock: string }
/** What a page hears: notices, that the line was cut, and that it is there again. */
export type FromLine = { notice: Notice } | { cut: true } | { mended: true }

/** A page that listens. */
export interface Listener {
  post(message: FromLine): void
}

/** What the line needs of its platform. */
export interface LineHost {
  open(address: string): {
    onopen: (() => void) | null
    onmessage: ((event: { data: string }) => void) | null
    onerror: (() => void) | null
    readonly readyState: number
    close(): void
  }
  later(work: () => void, milliseconds: number): void
  /** Milliseconds of a clock that only goes forward. */
  now(): number
}

const CLOSED = 2
/** How long a notice is told to listeners that come later, in milliseconds; longer than a page takes to load. */
const RECENT = 30_000
const RETRY = 3000
/** Topics change in bursts when pages come and go. */
const GATHER = 50

/**
 * One stream of events for any number of listeners: browsers allow six connections to a server, and a stream a tab would take
 * them all. The stream is about whatever any listener wants; it is opened anew when that changes. Who comes later is told what
 * was told of late.
 */
export function openLine(host: LineHost) {
  const listeners = new Map<Listener, readonly string[]>()
  /** The newest notice about each thing. */
  const recent = new Map<string, { notice: Notice; at: number }>()
  let source: ReturnType<LineHost['open']> | null = null
  let about = ''
  let gathering = false
  let cut = false

  const everybody = (message: FromLine): void => {
    for (const listener of listeners.keys()) listener.post(message)
  }

  function connect(): void {
    gathering = false
    const topics = [...new Set([...listeners.values()].flat())].sort()
    const address = `/events?${topics.map((topic) => `topic=${encodeURIComponent(topic)}`).join('&')}`
    if (source && address === about) return
    source?.close()
    source = null
    if (topics.length === 0) return
    about = address
    const mine = host.open(address)
    source = mine
    mine.onopen = () => {
      if (cut) everybody({ mended: true })
      cut = false
    }
    mine.onmessage = ({ data }) => {
      const notice = JSON.parse(data) as Notice
      recent.set(subjectOf(notice), { notice, at: host.now() })
      everybody({ notice })
    }
    mine.onerror = () => {
      if (source !== mine) return
      cut = true
      everybody({ cut: true })
      // A browser reconnects by itself but for answers that are errors.
      if (mine.readyState !== CLOSED) return
      source = null
      gather(RETRY)
    }
  }

  function gather(milliseconds = GATHER): void {
    if (gathering) return
    gathering = true
    host.later(connect, milliseconds)
  }

  return {
    listen(listener: Listener, topics: readonly string[]): void {
      const isNew = !listeners.has(listener)
      listeners.set(listener, topics)
      gather()
      if (!isNew) return
      if (cut) listener.post({ cut: true })
      for (const [subject, { notice, at }] of recent)
        if (notice.type !== 'run' || host.now() - at < RECENT) listener.post({ notice })
        else recent.delete(subject)
    },
    leave(listener: Listener): void {
      if (listeners.delete(listener)) gather()
    },
  }
}

/** What a notice is about: a newer one about the same takes its place. */
export const subjectOf = (notice: Notice): string =>
  notice.type === 'run' ? `run:${notice.run.id}` : notice.type === 'document' ? `document:${notice.id}` : 'health'

/** The host in a browser, on a page or in a worker. */
export const browserLineHost: LineHost = {
  open: (address) => new EventSource(address) as unknown as ReturnType<LineHost['open']>,
  later: (work, milliseconds) => void setTimeout(work, milliseconds),
  now: () => performance.now(),
}
