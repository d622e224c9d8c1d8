import type { Notice } from '../../contracts/notice'
import type { FromLine, Listener } from './line'
import { openLine } from './line'

/** A platform whose streams are opened by hand. */
function platform() {
  const timers: { work: () => void; at: number }[] = []
  const state = { now: 0, opened: [] as { address: string; source: Source; closed: boolean }[] }
  interface Source {
    onopen: (() => void) | null
    onmessage: ((event: { data: string }) => void) | null
    onerror: (() => void) | null
    readyState: number
    close(): void
  }
  const line = openLine({
    open: (address) => {
      const entry = { address, closed: false } as (typeof state.opened)[0]
      entry.source = { onopen: null, onmessage: null, onerror: null, readyState: 0, close: () => (entry.closed = true) }
      state.opened.push(entry)
      return entry.source
    },
    later: (work, milliseconds) => void timers.push({ work, at: state.now + milliseconds }),
    now: () => state.now,
  })
  const pass = (milliseconds: number): void => {
    state.now += milliseconds
    for (const timer of timers.splice(0))
      if (timer.at <= state.now) timer.work()
      else timers.push(timer)
  }
  const newest = () => state.opened.at(-1)!
  const tell = (notice: Notice): void => newest().source.onmessage!({ data: JSON.stringify(notice) })
  return { line, state, pass, newest, tell }
}
function listener(): Listener & { received: FromLine[] } {
  const received: FromLine[] = []
  return { received, post: (message) => void received.push(message) }
}
const head = (id: string, number: number): Notice => ({ type: 'document', id, head: number })

test('one stream for all listeners, about what any of them wants; opened anew only when that changes', () => {
  const { line, state, pass, newest } = platform()
  const [a, b] = [listener(), listener()]
  line.listen(a, ['runs'])
  line.listen(b, ['document:x', 'runs'])
  pass(100)
  expect(state.opened.map(({ address }) => address)).toEqual(['/events?topic=document%3Ax&topic=runs'])
  line.listen(listener(), ['runs'])
  pass(100)
  expect(state.opened).toHaveLength(1)
  line.leave(b)
  pass(100)
  expect(newest().address).toBe('/events?topic=runs')
  expect(state.opened[0]!.closed).toBe(true)
})

test('who comes later is told what was told of late: heads and health always, runs for half a minute', () => {
  const { line, pass, tell } = platform()
  line.listen(listener(), ['runs'])
  pass(100)
  tell(head('x', 3))
  tell(head('x', 4))
  tell({ type: 'run', run: { id: 'r' } as never })
  tell({ type: 'health', trouble: 'no worker' })
  const soon = listener()
  line.listen(soon, ['runs'])
  expect(soon.received).toHaveLength(3)
  expect(soon.received[0]).toEqual({ notice: head('x', 4) })
  pass(31_000)
  const late = listener()
  line.listen(late, ['runs'])
  expect(late.received.map((one) => 'notice' in one && one.notice.type)).toEqual(['document', 'health'])
})

test('a cut and its end are told; a stream that was refused is tried again', () => {
  const { line, state, pass, newest } = platform()
  const a = listener()
  line.listen(a, ['runs'])
  pass(100)
  newest().source.onopen!()
  expect(a.received).toEqual([])
  newest().source.onerror!()
  newest().source.onopen!()
  expect(a.received).toEqual([{ cut: true }, { mended: true }])
  newest().source.readyState = 2
  newest().source.onerror!()
  expect(state.opened).toHaveLength(1)
  pass(3100)
  expect(state.opened).toHaveLength(2)
  newest().source.onopen!()
  expect(a.received.at(-1)).toEqual({ mended: true })
})
