import { useRef } from 'react'
import { useActions, useMaterial } from '../../session/material'
import { nameableAt } from '../../session/actions/taps'
import { openEditor } from '../../session/keyboard-focus'
import type { Selection } from '../../session/view'
import { toggleableOf } from '../../session/view'

/** What a new node is put into: a cell, or a new entry of a mask. */
function intoOf(place: Selection): Selection | undefined {
  if (place.kind === 'cell') return place
  return place.kind === 'mask' ? { ...place, entry: null } : undefined
}

/** What is stepped through by a key, and which way. */
export const STEPS: Readonly<Record<string, ['source' | 'blend', 1 | -1]>> = {
  '.': ['source', 1],
  ',': ['source', -1],
  ':': ['blend', 1],
  ';': ['blend', -1],
  '>': ['blend', 1],
  '<': ['blend', -1],
}

/** Keys of the sheet besides the arrows; the list that `?` shows is app/features/palette/shortcuts.ts. */
export function useSheetKeys() {
  const actions = useActions()
  const { view } = useMaterial()
  const holding = useRef(false)

  function press(event: React.KeyboardEvent, place: Selection): void {
    const { key, altKey, shiftKey } = event
    const command = event.ctrlKey || event.metaKey
    const layer = 'layer' in place ? place.layer : null
    const cell = place.kind === 'cell' ? place : null
    const what = toggleableOf(place)
    const done = (): void => {
      event.preventDefault()
      event.stopPropagation()
    }
    if (altKey && layer) {
      if (key === 'ArrowUp') return (done(), keepFocus(() => actions.stepLayer(layer, 1)))
      if (key === 'ArrowDown') return (done(), keepFocus(() => actions.stepLayer(layer, -1)))
      if (key === 'ArrowLeft') return (done(), keepFocus(() => actions.leaveGroup(layer)))
      if (key === 'ArrowRight') return (done(), keepFocus(() => actions.enterGroup(layer)))
    }
    if (command) {
      // Plain copies and pastes come as such (features/clipboard).
      if (key.toLowerCase() === 'v' && shiftKey && cell) {
        const { clip } = view.getState()
        if (!clip) return
        return (done(), actions.copyCell(clip, cell, true))
      }
      if (key.toLowerCase() === 'd' && layer) return (done(), keepFocus(() => actions.duplicateLayer(layer, shiftKey)))
      return
    }
    if (altKey) return
    if (key === 'Enter') {
      done()
      if (place.kind === 'channel') return actions.isolate(place.channel)
      actions.select(place)
      return openEditor()
    }
    if (key === ' ') return (done(), actions.showSelection(place))
    if (key === 'Delete' || key === 'Backspace') return (done(), keepFocus(() => actions.clear(place)))
    if (key === 'F2' && layer) return (done(), view.setState({ renaming: layer }))
    if (key === 'o' && what) return (done(), actions.toggleEnabled(what))
    if (key === 'a' && what) return (done(), actions.toggleSolo(what))
    if (key === 'b' && what) {
      done()
      holding.current = true
      return actions.showWithout(what)
    }
    if (key === 'l') return (done(), keepFocus(() => actions.addLayer('layer', true)))
    if (key === 'c') return (done(), keepFocus(() => actions.addLayer('correction')))
    if (key === 'g') return (done(), keepFocus(() => (layer ? actions.wrapInGroup(layer) : actions.addLayer('group'))))
    const nameable = nameableAt(place)
    if (key === 't' && nameable) return (done(), actions.nameResult(nameable))
    if (STEPS[key]) return (done(), actions.audition(...STEPS[key]))
    if (key === 'n') return (done(), actions.openPalette({ kind: 'nodes', into: intoOf(place) }))
    if ((key === '-' || key === '+') && layer) actions.fold(layer)
  }

  function release(event: React.KeyboardEvent): void {
    if (event.key !== 'b' || !holding.current) return
    holding.current = false
    actions.showWithout(null)
  }

  /** After a change of the rows the keyboard goes on from the chosen cell. */
  function keepFocus(work: () => void): void {
    work()
    requestAnimationFrame(() => document.querySelector<HTMLElement>('[role=grid] [tabindex="0"][data-at]')?.focus())
  }
  return { press, release }
}
