import { useEffect } from 'react'
import { useMaterial } from '../material'

interface ScreenKeys {
  undo(): void
  redo(): void
  /** Escape, outside fields. */
  escape(typing: boolean): void
}

/** Keys that work wherever the keyboard is, on every screen of a material. */
export function useScreenKeys({ undo, redo, escape }: ScreenKeys): void {
  const { view, actions } = useMaterial()
  useEffect(() => {
    const press = (event: KeyboardEvent): void => {
      const command = event.ctrlKey || event.metaKey
      const key = event.key.toLowerCase()
      const typing = (event.target as HTMLElement).matches?.('input, textarea, select, [contenteditable]')
      const steps = command && (key === 'z' || key === 'y')
      if (steps && ownsUndo(event.target as HTMLElement)) return
      if (steps) {
        event.preventDefault()
        if (event.shiftKey || key === 'y') redo()
        else undo()
      } else if (command && key === 'k') {
        event.preventDefault()
        actions.openPalette({ kind: 'commands' })
      } else if (event.key === '?' && !typing) view.setState({ help: 'shortcuts' })
      else if (event.key === 'F6') {
        event.preventDefault()
        nextPane(event.shiftKey ? -1 : 1)
      } else if (event.key === 'Escape') escape(typing)
    }
    window.addEventListener('keydown', press)
    return () => window.removeEventListener('keydown', press)
  }, [view, actions, undo, redo, escape])
}

/** Whether undo belongs to a field: one of text, and one of a number while something is typed. */
function ownsUndo(field: HTMLElement): boolean {
  if (field.matches('[role=spinbutton]')) return field.dataset.typing === 'yes'
  return field.matches('textarea, [contenteditable], input:not([type]), input[type=text], input[type=search]')
}

/** Moves the keyboard to the next pane: to its grid cell, to what Tab would reach first, or to the pane itself. */
function nextPane(by: 1 | -1): void {
  // The card of the walk is one of them.
  const panes = [
    ...document.querySelectorAll<HTMLElement>('main section[aria-label]:not(section section), [data-pane-stop]'),
  ]
  const at = panes.findIndex((pane) => pane.contains(document.activeElement))
  const pane = panes[(at + by + panes.length) % panes.length]
  const target =
    pane?.querySelector<HTMLElement>('[data-at][tabindex="0"]') ??
    pane?.querySelector<HTMLElement>('button:not(:disabled), input, select, [tabindex="0"]')
  if (pane && !target) pane.tabIndex = -1
  ;(target ?? pane)?.focus()
}
