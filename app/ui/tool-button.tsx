import type { LucideIcon } from 'lucide-react'
import type { ComponentProps } from 'react'
import { Tip } from './tip'

/** A small button of one picture with a tooltip, which is also its name. */
export function ToolButton({
  icon: Icon,
  word,
  tip,
  pressed,
  className = '',
  ...rest
}: ComponentProps<'button'> & { icon: LucideIcon; word: string; tip?: string; pressed?: boolean }) {
  return (
    <Tip text={tip ?? word}>
      <button
        type="button"
        aria-label={word}
        aria-pressed={pressed}
        {...rest}
        className={`inline-flex size-[24px] shrink-0 items-center justify-center rounded text-ink-soft hover:bg-ground hover:text-ink disabled:opacity-40 aria-pressed:bg-accent aria-pressed:text-on-accent ${className}`}
      >
        <Icon size={14} aria-hidden />
      </button>
    </Tip>
  )
}
