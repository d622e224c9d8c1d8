import { ContextMenu as Parts } from 'radix-ui'
import type { MouseEvent, ReactElement } from 'react'
import { useState } from 'react'

/** One thing to do, with its keys; a rule between groups of them. */
export type ContextItem = { readonly word: string; readonly keys?: string; readonly run: () => void } | 'rule'

/**
 * What a press of the right button (or the menu key) offers in an area. `itemsFor` gives what can be done with what lies
 * there; nothing leaves the browser's own menu.
 */
export function ContextMenu({
  itemsFor,
  children,
}: {
  itemsFor: (target: Element, at: { readonly x: number; readonly y: number }) => readonly ContextItem[]
  children: ReactElement
}) {
  const [items, setItems] = useState<readonly ContextItem[]>([])
  const open = (event: MouseEvent): void => {
    const target = event.target as Element
    const found = target.closest('input, select, textarea')
      ? []
      : itemsFor(target, { x: event.clientX, y: event.clientY })
    // Radix opens nothing where the event is done with; the browser's menu stays.
    if (found.length === 0) return event.stopPropagation()
    setItems(found)
  }
  return (
    <Parts.Root>
      <div className="contents" onContextMenuCapture={open}>
        <Parts.Trigger asChild>{children}</Parts.Trigger>
      </div>
      <Parts.Portal>
        <Parts.Content
          className="z-40 min-w-52 rounded-md border border-rule-strong bg-raised p-1 shadow-lg"
          onCloseAutoFocus={(event) => event.preventDefault()}
        >
          {items.map((item, index) =>
            item === 'rule' ? (
              <Parts.Separator key={index} className="my-1 h-px bg-rule" />
            ) : (
              <Parts.Item
                key={index}
                onSelect={item.run}
                className="flex cursor-default justify-between gap-6 rounded px-2 py-1 data-highlighted:bg-ground"
              >
                {item.word}
                <span className="font-mono text-note text-ink-soft">{item.keys}</span>
              </Parts.Item>
            ),
          )}
        </Parts.Content>
      </Parts.Portal>
    </Parts.Root>
  )
}
