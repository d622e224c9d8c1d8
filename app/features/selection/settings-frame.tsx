import type { ReactNode } from 'react'
import { number } from '#core/graph/parameters'
import { backToSheet } from '../../session/keyboard-focus'

export const AMOUNT = number({ default: 1, min: 0, max: 1, help: 'How much of it shows; 0 is none, 1 is all.' })

/** Title, what it is, and tools at the right; Escape leads back to the sheet. */
export function SettingsFrame({
  title,
  about,
  tools,
  children,
}: {
  title: string
  about?: string
  tools?: ReactNode
  children: ReactNode
}) {
  return (
    <div
      data-editor
      className="flex flex-col gap-2.5 p-3"
      onKeyDown={(event) => event.key === 'Escape' && !event.defaultPrevented && backToSheet()}
    >
      <header className="flex items-center gap-2">
        <h3 className="truncate font-semibold" title={title}>
          {title}
        </h3>
        <p className="min-w-0 flex-1 truncate text-ink-soft" title={about}>
          {about}
        </p>
        {tools}
      </header>
      {children}
    </div>
  )
}
