import type { RunState } from '../../contracts/run'

const MARK: Record<RunState, [string, string]> = {
  queued: ['◌', 'waiting'],
  running: ['◐', 'baking'],
  done: ['●', 'done'],
  failed: ['■', 'failed'],
  cancelled: ['–', 'cancelled'],
}

/** State by shape and word. */
export function RunMark({ state }: { state: RunState }) {
  const [mark, word] = MARK[state]
  return (
    <span className="whitespace-nowrap">
      <span aria-hidden>{mark}</span> {word}
    </span>
  )
}
