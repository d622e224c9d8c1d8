import { LIMITS } from '#core/limits'
import { Button } from './button'
import { Modal } from './modal'

interface NameDialogProps {
  readonly title: string
  readonly about?: string
  readonly name?: string
  /** What the main button says. */
  readonly action: string
  /** What the field is called. */
  readonly label?: string
  /** Whether it may be left empty. */
  readonly optional?: boolean
  readonly onName: (name: string) => void
  readonly onClose: () => void
}

/** Asks for a name; closes once it has one. */
export function NameDialog({
  title,
  about,
  name = '',
  action,
  label = 'Name',
  optional = false,
  onName,
  onClose,
}: NameDialogProps) {
  return (
    <Modal open onOpenChange={(open) => !open && onClose()} title={title} about={about}>
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault()
          const given = String(new FormData(event.currentTarget).get('name')).trim()
          if (!given && !optional) return
          onName(given)
          onClose()
        }}
      >
        <label className="flex flex-col gap-1">
          <span className="text-ink-soft">{label}</span>
          <input
            name="name"
            required={!optional}
            maxLength={LIMITS.name}
            autoFocus
            defaultValue={name}
            className="rounded border border-rule-strong bg-raised px-2 py-1"
          />
        </label>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Close</Button>
          <Button variant="main" type="submit">
            {action}
          </Button>
        </div>
      </form>
    </Modal>
  )
}
