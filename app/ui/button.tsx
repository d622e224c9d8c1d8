import type { LucideIcon } from 'lucide-react'
import type { ComponentProps } from 'react'

const VARIANTS = {
  main: 'border-accent-fill bg-accent-fill font-semibold text-on-accent',
  plain: 'border-rule-strong bg-raised',
  quiet:
    'border-transparent bg-transparent text-ink-soft hover:border-rule-strong hover:text-ink disabled:hover:border-transparent',
}

/** Amber for the one main action of a place, plain for the others, quiet for those beside a line of text. */
export function Button({
  variant = 'plain',
  className = '',
  ...rest
}: ComponentProps<'button'> & { variant?: keyof typeof VARIANTS }) {
  return (
    <button
      type="button"
      {...rest}
      className={`inline-flex shrink-0 items-center gap-1.5 rounded-md border px-2.5 py-1 whitespace-nowrap disabled:opacity-50 ${VARIANTS[variant]} ${className}`}
    />
  )
}

/** The same look for a link. */
export const buttonClasses = (variant: keyof typeof VARIANTS = 'plain'): string =>
  `inline-flex shrink-0 items-center gap-1.5 rounded-md border px-2.5 py-1 whitespace-nowrap ${VARIANTS[variant]}`

/** A quiet button of one picture: `word` is its tooltip, and with `of` its name for screen readers. */
export function IconButton({
  icon: Icon,
  word,
  of,
  refused,
  onClick,
}: {
  icon: LucideIcon
  word: string
  of: string
  /** Why it cannot be done now; shown as the tooltip. */
  refused?: string
  onClick(): void
}) {
  return (
    <Button
      variant="quiet"
      className="px-1.5"
      title={refused ?? word}
      aria-label={`${word} ${of}`}
      disabled={refused !== undefined}
      onClick={onClick}
    >
      <Icon size={14} aria-hidden />
    </Button>
  )
}
