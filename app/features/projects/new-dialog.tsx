import { RadioGroup } from 'radix-ui'
import { useState } from 'react'
import { LIMITS } from '#core/limits'
import type { StartCard } from '../../contracts/start'
import { Button } from '../../ui/button'
import { Modal } from '../../ui/modal'

/** Asks for a name and what to begin with; what it makes opens. */
export function NewDialog({
  title,
  about,
  starts,
  onMake,
  onClose,
}: {
  title: string
  about: string
  starts: readonly StartCard[]
  onMake: (name: string, start: string) => void
  onClose: () => void
}) {
  const [start, setStart] = useState('plain')
  return (
    <Modal open wide onOpenChange={(open) => !open && onClose()} title={title} about={about}>
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault()
          const name = String(new FormData(event.currentTarget).get('name')).trim()
          if (name !== '') onMake(name, start)
        }}
      >
        <label className="flex flex-col gap-1">
          <span className="text-ink-soft">Name</span>
          <input
            name="name"
            required
            maxLength={LIMITS.name}
            autoFocus
            className="rounded border border-rule-strong bg-raised px-2 py-1"
          />
        </label>
        <div className="flex flex-col gap-1">
          <span className="text-ink-soft">Begin with</span>
          <RadioGroup.Root
            aria-label="Begin with"
            value={start}
            onValueChange={setStart}
            className="grid max-h-[46vh] grid-cols-[repeat(auto-fill,minmax(13rem,1fr))] gap-2 overflow-auto p-0.5"
          >
            {starts.map(({ id, name, about: words, picture }) => (
              <RadioGroup.Item
                key={id}
                value={id}
                className="flex items-center gap-2 rounded-md border border-rule-strong bg-raised p-1.5 text-left data-[state=checked]:border-accent data-[state=checked]:ring-1 data-[state=checked]:ring-accent"
              >
                {picture === null ? (
                  <span className="size-14 shrink-0 rounded bg-[#9a938a]" />
                ) : (
                  <img src={picture} alt="" className="size-14 shrink-0 rounded bg-view object-cover" />
                )}
                <span className="min-w-0">
                  <span className="block truncate font-semibold">{name}</span>
                  <span className="block text-note text-ink-soft">{words}</span>
                </span>
              </RadioGroup.Item>
            ))}
          </RadioGroup.Root>
        </div>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Close</Button>
          <Button variant="main" type="submit">
            Make it
          </Button>
        </div>
      </form>
    </Modal>
  )
}
