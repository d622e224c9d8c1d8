import { ArrowDown, ArrowUp, Link2, Trash2 } from 'lucide-react'
import { useMemo } from 'react'
import { sharedNodes } from '#core/document/edits/fragment'
import { findLayer } from '#core/document/edits/layers'
import { channelsOf } from '#core/document/channels'
import { Button } from '../../ui/button'
import { NumberField, FieldLabel } from '../../ui/number-field'
import { ToolButton } from '../../ui/tool-button'
import { counted } from '../../ui/words'
import { useActions, useApplied, useDocument, useUndialled } from '../../session/material'
import { NoteField } from './note-field'
import { ParameterField } from './parameter-field'
import { Switches } from './switches'
import { Values } from './values'
import { AMOUNT, SettingsFrame } from './settings-frame'

export function LayerSettings({ id }: { id: string }) {
  const actions = useActions()
  const document = useDocument()
  const layer = findLayer(document, id)!
  const amount = useApplied((one) => findLayer(one, id)?.amount) ?? layer.amount
  return (
    <SettingsFrame
      title={layer.name}
      onRename={(name) => actions.renameLayer(id, name)}
      about={layer.kind}
      tools={
        <>
          <Switches what={{ layer: id }} name={layer.name} />
          <ToolButton icon={Trash2} word={`Delete ${layer.name} (Delete)`} onClick={() => actions.deleteLayer(id)} />
        </>
      }
    >
      <ParameterField
        name="amount"
        parameter={AMOUNT}
        target={{ layer: id, field: 'amount' }}
        value={amount}
        label="Amount"
      />
      {layer.kind === 'group' && (
        <div className="grid grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
          <FieldLabel
            label="Closed"
            help="A closed group is put together by itself: its corrections and blends reach only what is in it. An open one lets them through to what lies below."
          />
          <input
            type="checkbox"
            role="switch"
            aria-label="Closed"
            checked={layer.closed}
            onChange={(event) => actions.setClosed(id, event.target.checked)}
            className="size-4 justify-self-start accent-accent"
          />
        </div>
      )}
      <div className="flex flex-wrap gap-2">
        <Button onClick={() => actions.select({ kind: 'mask', layer: id, entry: null })}>
          {layer.mask.length === 0 ? 'Add a mask' : 'Edit the mask'}
        </Button>
        <Button
          title="With nodes of its own; with Alt it shares them"
          onClick={(event) => actions.duplicateLayer(id, event.altKey)}
        >
          Duplicate
        </Button>
        <Button onClick={() => actions.setView({ renaming: id })}>Rename</Button>
        <Button onClick={() => actions.stepLayer(id, 1)}>
          <ArrowUp size={13} aria-hidden /> Up
        </Button>
        <Button onClick={() => actions.stepLayer(id, -1)}>
          <ArrowDown size={13} aria-hidden /> Down
        </Button>
        <Button onClick={() => actions.enterGroup(id)}>Into the group beside it</Button>
      </div>
      <NoteField key={id} note={layer.note} onNote={(note) => actions.setNote({ layer: id }, note)} />
      <SharedNodes layer={id} />
      <Values />
    </SettingsFrame>
  )
}

/** With which layers this one shares nodes, and a way to have its own. */
function SharedNodes({ layer }: { layer: string }) {
  const actions = useActions()
  const document = useUndialled()
  const shared = useMemo(() => sharedNodes(document, layer), [document, layer])
  if (shared.size === 0) return null
  const others = [...new Set([...shared.values()].flat())].map((id) => findLayer(document, id)!.name)
  return (
    <p className="flex items-center gap-2 text-ink-soft">
      <Link2 size={13} aria-hidden className="shrink-0" />
      <span className="min-w-0 flex-1">
        Shares {counted(shared.size, 'node')} with {others.slice(0, 3).join(', ')}
        {others.length > 3 && ` and ${others.length - 3} more`}: a change there is a change here.
      </span>
      <Button onClick={() => actions.giveOwnNodes(layer)}>Own nodes</Button>
    </p>
  )
}

export function ChannelSettings({ id }: { id: string }) {
  const actions = useActions()
  const document = useDocument()
  const channel = channelsOf(document).find((one) => one.id === id)!
  const own = document.channels[id]
  return (
    <SettingsFrame
      title={channel.title}
      about={`whole result, ${channel.type}${channel.transfer === 'srgb' ? ', sRGB in files' : ', raw in files'}`}
      tools={
        own && (
          <ToolButton
            icon={Trash2}
            word={`Delete channel ${channel.title}`}
            onClick={() => actions.deleteChannel(id)}
          />
        )
      }
    >
      {own && typeof own.backdrop === 'number' && (
        <NumberField
          label="Under all layers"
          help="What the channel holds where no layer writes."
          min={-1e6}
          max={1e6}
          softRange={[0, 1]}
          standard={0}
          value={own.backdrop}
          onDrag={(backdrop) =>
            actions.drag('Under all layers', (draft) => void (draft.channels[id]!.backdrop = backdrop))
          }
          onDrop={actions.drop}
        />
      )}
      <Values />
    </SettingsFrame>
  )
}
