import { StickyNote } from 'lucide-react'
import { useState } from 'react'
import { Button } from '../../ui/button'

/** Characters that a note may have. */
const LONGEST = 2000

/** Why something is as it is, in its author's words; hidden behind a button while there is nothing. */
export function NoteField({ note = '', onNote }: { note?: string; onNote: (note: string) => void }) {
  const [writing, setWriting] = useState(false)
  if (note === '' && !writing)
    return (
      <Button variant="quiet" className="self-start" onClick={() => setWriting(true)}>
        <StickyNote size={13} aria-hidden /> Add a note
      </Button>
    )
  return (
    <label className="flex flex-col gap-1">
      <span className="text-ink-soft">Note</span>
      <textarea
        key={note}
        defaultValue={note}
        maxLength={LONGEST}
        rows={2}
        autoFocus={writing}
        placeholder="Why it is here, what to mind …"
        onBlur={(event) => {
          setWriting(false)
          const next = event.target.value.trim()
          if (next !== note) onNote(next)
        }}
        className="field-sizing-content rounded border border-rule-strong bg-raised px-2 py-1"
      />
    </label>
  )
}
