import { useEffect, useRef } from 'react'

/** A name, changed in place: Enter and a press elsewhere take it over, Escape leaves it as it was. */
export function RenameInput({
  label,
  name,
  onName,
  onEnd,
  leave = (field) => field.blur(),
  className,
}: {
  label: string
  name: string
  /** Called only where the name is another one. */
  onName(name: string): void
  onEnd(): void
  /** Where the keyboard goes after Enter and Escape. */
  leave?(field: HTMLInputElement): void
  className: string
}) {
  const input = useRef<HTMLInputElement>(null)
  useEffect(() => input.current?.select(), [])
  return (
    <input
      ref={input}
      aria-label={label}
      defaultValue={name}
      maxLength={200}
      autoFocus
      onBlur={(event) => {
        if (event.target.value.trim() !== name) onName(event.target.value)
        onEnd()
      }}
      onKeyDown={(event) => {
        event.stopPropagation()
        if (event.key === 'Escape') event.currentTarget.value = name
        if (event.key === 'Enter' || event.key === 'Escape') leave(event.currentTarget)
      }}
      className={`rounded border border-accent bg-raised ${className}`}
    />
  )
}
