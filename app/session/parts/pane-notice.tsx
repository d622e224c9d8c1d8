import { X } from 'lucide-react'
import { useEffect } from 'react'
import { Button } from '../../ui/button'
import { useActions, useView } from '../material'

/** Milliseconds that a notice stands; one with something to press longer. */
const STANDS = 12_000
const STANDS_WITH_ACTION = 30_000

/** What is to be told, in the pane where it happened. */
export function PaneNotice({ pane }: { pane: string }) {
  const actions = useActions()
  const notice = useView((view) => (view.noticePane === pane ? view.notice : null))
  const action = useView((view) => (view.noticePane === pane ? view.noticeAction : null))
  useEffect(() => {
    if (notice === null) return
    const timer = window.setTimeout(() => actions.notify(null), action ? STANDS_WITH_ACTION : STANDS)
    return () => window.clearTimeout(timer)
  }, [actions, notice, action])
  return (
    <div
      role="status"
      aria-label={notice === null ? undefined : 'Notice'}
      className="pointer-events-none absolute inset-x-2 bottom-10 z-30 flex justify-center"
    >
      {notice !== null && (
        <div className="pointer-events-auto flex max-w-full items-center gap-2 rounded-md border border-rule-strong bg-raised py-1 pr-1 pl-3 shadow-md">
          <span className="min-w-0">{notice}</span>
          {action && (
            <Button
              onClick={() => {
                actions.notify(null)
                action.run()
              }}
              className="shrink-0"
            >
              {action.word}
            </Button>
          )}
          <button
            type="button"
            aria-label="Close the notice"
            onClick={() => actions.notify(null)}
            className="shrink-0 rounded p-1 text-ink-soft hover:text-ink"
          >
            <X size={12} aria-hidden />
          </button>
        </div>
      )}
    </div>
  )
}
