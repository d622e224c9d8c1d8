import { useEffect, useState } from 'react'
import { useEvents } from './use-events'

/** A line that is cut so long is told, in milliseconds; shorter ones mend themselves unseen. */
const TELL_AFTER = 3000

/** What keeps bakes or edits waiting, in words, over whatever page is open; gone by itself when it is over. */
export function Trouble() {
  const [trouble, setTrouble] = useState<string | null>(null)
  const [cutAt, setCutAt] = useState<number | null>(null)
  const [isCut, setIsCut] = useState(false)
  useEvents(
    ['health'],
    (notice) => {
      setCutAt(null)
      if (notice.type === 'health') setTrouble(notice.trouble)
    },
    { onCut: () => setCutAt((before) => before ?? Date.now()), onMended: () => setCutAt(null) },
  )
  useEffect(() => {
    const timer = setTimeout(() => setIsCut(cutAt !== null), cutAt === null ? 0 : TELL_AFTER)
    return () => clearTimeout(timer)
  }, [cutAt])
  const words = isCut ? 'Cannot reach the server; your edits are kept and will be sent.' : trouble
  if (!words) return null
  return (
    <div
      role="status"
      aria-label="Trouble"
      className="fixed top-12 left-1/2 z-50 -translate-x-1/2 rounded-md border border-rule-strong bg-raised px-4 py-2 shadow-lg"
    >
      ▲ {words}
    </div>
  )
}
