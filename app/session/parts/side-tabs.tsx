import { Tabs } from 'radix-ui'
import type { ReactNode } from 'react'

interface SideTab<T extends string> {
  readonly value: T
  readonly word: string
  /** Name by which the walk finds it. */
  readonly guide?: string
  readonly shows: ReactNode
}

/** A pane of tabs, one of them shown. */
export function SideTabs<T extends string>({
  label,
  guide,
  tabs,
  value,
  onChange,
  aside,
}: {
  label: string
  guide: string
  tabs: readonly SideTab<T>[]
  value: T
  onChange(value: T): void
  /** At the right of the tabs. */
  aside?: ReactNode
}) {
  return (
    <section aria-label={label} className="flex h-full min-h-0 flex-col bg-panel" data-guide={guide}>
      <Tabs.Root value={value} onValueChange={(next) => onChange(next as T)} className="flex min-h-0 flex-1 flex-col">
        <Tabs.List aria-label={label} className="flex h-10 shrink-0 items-end gap-4 border-b border-rule px-3">
          {tabs.map((tab) => (
            <Tabs.Trigger
              key={tab.value}
              value={tab.value}
              data-guide={tab.guide}
              className="border-b-2 border-transparent pb-1.5 text-ink-soft data-[state=active]:border-accent data-[state=active]:font-semibold data-[state=active]:text-ink"
            >
              {tab.word}
            </Tabs.Trigger>
          ))}
          <span className="flex-1" />
          {aside}
        </Tabs.List>
        {tabs.map((tab) => (
          <Tabs.Content key={tab.value} value={tab.value} tabIndex={-1} className="min-h-0 flex-1 overflow-auto">
            {tab.shows}
          </Tabs.Content>
        ))}
      </Tabs.Root>
    </section>
  )
}
