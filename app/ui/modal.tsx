import { Dialog } from 'radix-ui'
import type { ReactNode } from 'react'

/** A dialog with a title; Escape and the ground behind it close it. */
export function Modal({
  open,
  onOpenChange,
  title,
  about,
  wide = false,
  children,
}: {
  open: boolean
  onOpenChange(open: boolean): void
  title: string
  about?: string
  /** For what needs room. */
  wide?: boolean
  children: ReactNode
}) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-50 bg-black/40" />
        <Dialog.Content
          aria-describedby={about ? undefined : ''}
          className={`fixed left-1/2 z-50 max-w-[92vw] -translate-x-1/2 rounded-lg border border-rule-strong bg-panel p-5 shadow-lg ${wide ? 'top-[8%] w-[52rem]' : 'top-1/4 w-[26rem]'}`}
        >
          <Dialog.Title className="text-base font-semibold">{title}</Dialog.Title>
          {about && <Dialog.Description className="mt-1 text-ink-soft">{about}</Dialog.Description>}
          <div className="mt-4">{children}</div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}
