import { DropdownMenu } from 'radix-ui'
import type { ReactElement, ReactNode } from 'react'

/** A menu that a button opens. */
export function Menu({
  trigger,
  align = 'end',
  children,
}: {
  trigger: ReactElement
  align?: 'start' | 'end'
  children: ReactNode
}) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align={align}
          sideOffset={4}
          className="z-40 max-h-80 overflow-auto rounded-md border border-rule-strong bg-raised p-1 shadow-lg"
        >
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}

export function MenuItem({ onSelect, children }: { onSelect(): void; children: ReactNode }) {
  return (
    <DropdownMenu.Item onSelect={onSelect} className="cursor-default rounded px-2 py-1 data-highlighted:bg-ground">
      {children}
    </DropdownMenu.Item>
  )
}

export const MenuRule = () => <DropdownMenu.Separator className="my-1 h-px bg-rule" />
