import type { ReactNode } from 'react'
import { useState } from 'react'
import { number } from '#core/graph/parameters'
import { RenameInput } from '../../ui/rename-input'
import { backToSheet } from '../../session/keyboard-focus'

/** The amount of a node. */
export const EFFECT = number({
  default: 1,
  min: 0,
  max: 1,
  help: 'How much of the node shows over what comes into it: 1 is all, 0 as if it were off.',
})

export const AMOUNT = number({ default: 1, min: 0, max: 1, help: 'How much of it shows; 0 is none, 1 is all.' })

/** A title; one that is a name is changed by a press on it. */
function Title({ title, onRename }: { title: string; onRename?: (name: string) => void }) {
  const [renaming, setRenaming] = useState(false)
  if (!onRename)
    return (
      <h3 className="truncate font-semibold" title={title}>
        {title}
      </h3>
    )
  if (!renaming)
    return (
      <h3 className="min-w-0 font-semibold">
        <button
          type="button"
          title={`${title}. Press to rename.`}
          onClick={() => setRenaming(true)}
          className="max-w-full cursor-text truncate rounded border border-transparent px-1 hover:border-rule-strong"
        >
          {title}
        </button>
      </h3>
    )
  return (
    <RenameInput
      label="Name"
      name={title}
      onName={onRename}
      onEnd={() => setRenaming(false)}
      className="min-w-0 px-1 font-semibold"
    />
  )
}

/** Title, what it is, and tools at the right; Escape leads back to the sheet. */
export function SettingsFrame({
  title,
  onRename,
  about,
  tools,
  children,
}: {
  title: string
  /** Where the title is a name that can be given here. */
  onRename?: (name: string) => void
  about?: string
  tools?: ReactNode
  children: ReactNode
}) {
  return (
    <div
      data-editor
      className="flex max-w-[56rem] flex-col gap-2.5 p-3"
      onKeyDown={(event) => event.key === 'Escape' && !event.defaultPrevented && backToSheet()}
    >
      <header className="flex items-center gap-2">
        <Title title={title} onRename={onRename} />
        <p className="min-w-0 flex-1 truncate text-ink-soft" title={about}>
          {about}
        </p>
        {tools}
      </header>
      {children}
    </div>
  )
}
