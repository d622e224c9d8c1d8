import { useEffect } from 'react'
import { useActions } from '../../session/material'

/** Whether keys are typed into a field, or text on the page is marked. */
const isTyping = (): boolean =>
  window.document.activeElement?.matches('input:not([type=checkbox]), textarea, select, [contenteditable]') === true ||
  window.getSelection()?.isCollapsed === false

/** Copy, cut and paste of what is chosen, as text, wherever the keyboard is but in a field. */
export function Clipboard() {
  const actions = useActions()
  useEffect(() => {
    const within = (selector: string): Element | null => window.document.activeElement?.closest(selector) ?? null
    const take = (event: ClipboardEvent): void => {
      if (isTyping()) return
      const dial = within('[data-dial]')?.getAttribute('data-dial')
      const text =
        dial && event.type === 'copy'
          ? actions.copyDials([dial])
          : actions.copyChosen(within('[role=grid]') ? 'sheet' : 'nodes', event.type === 'cut')
      if (text === null) return
      event.preventDefault()
      event.clipboardData?.setData('text/plain', text)
    }
    const paste = (event: ClipboardEvent): void => {
      if (!isTyping() && actions.pasteText(event.clipboardData?.getData('text/plain') ?? '')) event.preventDefault()
    }
    const { document } = window
    document.addEventListener('copy', take)
    document.addEventListener('cut', take)
    document.addEventListener('paste', paste)
    return () => {
      document.removeEventListener('copy', take)
      document.removeEventListener('cut', take)
      document.removeEventListener('paste', paste)
    }
  }, [actions])
  return null
}
