import { ToggleGroup } from 'radix-ui'

/** One of a few words, side by side. */
export function Segments<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string
  value: T | ''
  options: readonly { value: T; word: string }[]
  onChange(value: T): void
}) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(next) => next && onChange(next as T)}
      className="flex h-6 overflow-hidden rounded-md border border-rule-strong bg-raised"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          className="px-2 whitespace-nowrap text-ink-soft hover:text-ink data-[state=on]:bg-ink data-[state=on]:text-ground"
        >
          {option.word}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  )
}

interface Option {
  readonly value: string
  readonly word: string
  readonly disabled?: boolean
  /** A heading over it and its neighbours. */
  readonly group?: string
}

/** One of many words; `onLook` is called when it is about to be opened. */
export function Choice({
  label,
  value,
  options,
  onChange,
  onLook,
  className = '',
}: {
  label: string
  value: string
  options: readonly (string | Option)[]
  onChange(value: string): void
  onLook?(): void
  className?: string
}) {
  const own = options.map((option): Option => (typeof option === 'string' ? { value: option, word: option } : option))
  return (
    <select
      aria-label={label}
      value={value}
      onChange={(event) => onChange(event.target.value)}
      onPointerEnter={onLook}
      onFocus={onLook}
      className={`min-w-0 rounded border border-rule-strong bg-raised px-1.5 py-0.5 ${className}`}
    >
      {[...new Set(own.map(({ group }) => group))].map((group) => {
        const items = own
          .filter((option) => option.group === group)
          .map(({ value: key, word, disabled }) => (
            <option key={key} value={key} disabled={disabled}>
              {word}
            </option>
          ))
        return group === undefined ? (
          items
        ) : (
          <optgroup key={group} label={group}>
            {items}
          </optgroup>
        )
      })}
    </select>
  )
}
