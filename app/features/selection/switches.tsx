import { Eye, EyeOff, Focus, History } from 'lucide-react'
import { offable, sameSwitchable } from '#core/document/edits/focus'
import type { Switchable } from '#core/document/edits/focus'
import { ToolButton } from '../../ui/tool-button'
import { useActions, useDocument, useView } from '../../session/material'

/** Off, alone, and a held before/after: what every layer, cell, mask entry and node has. */
export function Switches({ what, name }: { what: Switchable; name: string }) {
  const actions = useActions()
  const document = useDocument()
  const off = offable(document, what)?.off === true
  const alone = useView((view) => sameSwitchable(view.alone, what))
  return (
    <span className="flex shrink-0">
      <ToolButton
        icon={off ? EyeOff : Eye}
        word={off ? `Switch ${name} on` : `Switch ${name} off`}
        tip={off ? 'Off. Switch on (O)' : 'Switch off (O)'}
        pressed={off}
        onClick={() => actions.toggleOff(what)}
      />
      {!('node' in what) && (
        <ToolButton
          icon={Focus}
          word={`Show ${name} alone`}
          tip={alone ? 'Shown alone. Show all again (A)' : 'Show alone (A)'}
          pressed={alone}
          onClick={() => actions.toggleAlone(what)}
        />
      )}
      <HoldButton what={what} name={name} off={off} />
    </span>
  )
}

/** Shows the material without it for as long as it is held. */
function HoldButton({ what, name, off }: { what: Switchable; name: string; off: boolean }) {
  const actions = useActions()
  const held = useView((view) => sameSwitchable(view.held, what))
  const end = (): void => actions.hold(null)
  return (
    <ToolButton
      icon={History}
      word={`Hold to see the material ${off ? 'with' : 'without'} ${name}`}
      tip={`Hold: ${off ? 'with' : 'without'} it (B)`}
      pressed={held}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        actions.hold(what)
      }}
      onPointerUp={end}
      onPointerCancel={end}
      onKeyDown={(event) => (event.key === ' ' || event.key === 'Enter') && actions.hold(what)}
      onKeyUp={end}
      onBlur={end}
    />
  )
}
