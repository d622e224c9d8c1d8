import { useState } from 'react'
import { Button } from './button'

/** What was deleted last, with the way back. `remove` deletes and remembers. */
export function useDeleted<T extends { name: string }>(deleteIt: (one: T) => void, bringBack: (one: T) => void) {
  const [gone, setGone] = useState<T | null>(null)
  const remove = (one: T): void => {
    setGone(one)
    deleteIt(one)
  }
  const notice = gone && (
    <div
      role="status"
      className="mt-4 flex items-center gap-3 rounded-md border border-rule-strong bg-raised px-3 py-2"
    >
      <span>“{gone.name}” was deleted.</span>
      <Button
        onClick={() => {
          bringBack(gone)
          setGone(null)
        }}
      >
        Bring it back
      </Button>
    </div>
  )
  return { remove, notice }
}
