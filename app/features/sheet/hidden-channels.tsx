import { useEffect, useState } from 'react'
import type { Channel } from '#core/document/channels'
import { Button } from '../../ui/button'
import { counted } from '../../ui/words'

/** Pixels that a press brings into view. */
const STEP = 240

const sheet = (): HTMLElement | null => document.querySelector('[role=grid][aria-multiselectable]')

/** How many channels the pane has no room for, with a way to them. */
export function HiddenChannels({ channels }: { channels: readonly Channel[] }) {
  const [hidden, setHidden] = useState({ left: 0, right: 0 })
  useEffect(() => {
    const grid = sheet()
    if (!grid) return
    const look = (): void => {
      const frame = grid.getBoundingClientRect()
      const frozen = grid.querySelector('[role=row] > *')?.getBoundingClientRect().right ?? frame.left
      const heads = [...grid.querySelectorAll('[data-at^="head/"]')].map((head) => head.getBoundingClientRect())
      // One that is cut is hidden too.
      const next = {
        left: heads.filter(({ left }) => left < frozen - 1).length,
        right: heads.filter(({ right }) => right > frame.left + grid.clientWidth + 1).length,
      }
      setHidden((now) => (now.left === next.left && now.right === next.right ? now : next))
    }
    const watch = new ResizeObserver(look)
    watch.observe(grid)
    // Columns grow with the size of text.
    if (grid.firstElementChild) watch.observe(grid.firstElementChild)
    grid.addEventListener('scroll', look)
    look()
    return () => {
      watch.disconnect()
      grid.removeEventListener('scroll', look)
    }
  }, [channels])
  const scroll = (by: number): void => sheet()?.scrollBy({ left: by, behavior: 'smooth' })
  if (hidden.left + hidden.right === 0) return null
  return (
    <span className="flex" role="group" aria-label="Channels out of sight">
      {hidden.left > 0 && (
        <Button variant="quiet" className="px-1" onClick={() => scroll(-STEP)}>
          ← {counted(hidden.left, 'channel')}
        </Button>
      )}
      {hidden.right > 0 && (
        <Button variant="quiet" className="px-1" onClick={() => scroll(STEP)}>
          {counted(hidden.right, 'more channel')} →
        </Button>
      )}
    </span>
  )
}
