import { Eye, EyeOff, Focus, History } from 'lucide-react'
import { toggleable, sameToggleable } from '#core/document/edits/focus'
import type { Toggleable } from '#core/document/edits/focus'
import { ToolButton } from '../../ui/tool-button'
import { useActions, useDocument, useView } from '../../session/material'

/** Off, alone, and a held before/after: what every layer, cell, mask entry and node has. */
export function Switches({ what, name }: { what: Toggleable; name: string }) {
  const actions = useActions()
  const document = useDocument()
  const off = toggleable(document, what)?.off === true
  const solo = useView((view) =>
    'node' in what
      ? view.stage.shown?.kind === 'port' && view.stage.shown.node === what.node
      : sameToggleable(view.solo, what),
  )
  return (
    <span className="flex shrink-0">
      <ToolButton
        icon={off ? EyeOff : Eye}
        word={off ? `Switch ${name} on` : `Switch ${name} off`}
        tip={off ? 'Off. Switch on (O)' : 'Switch off (O)'}
        pressed={off}
        onClick={() => actions.toggleEnabled(what)}
      />
      <ToolButton
        icon={Focus}
        word={`Show ${name} alone`}
        tip={solo ? 'Shown alone. Show all again (A)' : 'Show alone (A)'}
        pressed={solo}
        onClick={() => actions.toggleSolo(what)}
      />
      <HoldButton what={what} name={name} off={off} />
    </span>
  )
}

/** Shows the material without it for as long as it is held. */
function HoldButton({ what, name, off }: { what: Toggleable; name: string; off: boolean }) {
  const actions = useActions()
  const without = useView((view) => sameToggleable(view.without, what))
  const end = (): void => actions.showWithout(null)
  return (
    <ToolButton
      icon={History}
      word={`Hold to see the material ${off ? 'with' : 'without'} ${name}`}
      tip={`Hold: ${off ? 'with' : 'without'} it (B)`}
      pressed={without}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        actions.showWithout(what)
      }}
      onPointerUp={end}
      onPointerCancel={end}
      onKeyDown={(event) => (event.key === ' ' || event.key === 'Enter') && actions.showWithout(what)}
      onKeyUp={end}
      onBlur={end}
    />
  )
}
