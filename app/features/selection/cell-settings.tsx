import { Maximize2, Plus, Trash2 } from 'lucide-react'
import { findPlain } from '#core/document/edits/layers'
import { choice } from '#core/graph/parameters'
import { channelsOf } from '#core/document/channels'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { FieldLabel } from '../../ui/number-field'
import { ToolButton } from '../../ui/tool-button'
import { useActions, useApplied, useDocument } from '../../session/material'
import type { Selection } from '../../session/view'
import { blendWord, blendsFor } from '../../session/words/blend-words'
import { Swatch } from '../../session/parts/swatch'
import { Operations } from './operations'
import { ParameterField } from './parameter-field'
import { FittingSources, SourceField } from './source-field'
import { Switches } from './switches'
import { Values } from './values'
import { AMOUNT, SettingsFrame } from './settings-frame'

export function CellSettings({ layer: id, channel: channelId }: { layer: string; channel: string }) {
  const actions = useActions()
  const document = useDocument()
  const layer = findPlain(document, id)!
  const applied = useApplied((one) => findPlain(one, id)?.cells[channelId])
  const channel = channelsOf(document).find((one) => one.id === channelId)
  const cell = layer.cells[channelId]
  const place: Selection = { kind: 'cell', layer: id, channel: channelId }
  const title = `${layer.name} · ${channel?.title ?? channelId}`
  if (!cell || !channel)
    return (
      <SettingsFrame title={title} about="empty: what lies below shows">
        {layer.kind === 'correction' && channel && <Operations layer={id} channel={channel} />}
        <p className="text-ink-soft">
          Put something in, and this layer writes into {channel?.title.toLowerCase() ?? channelId} too.
        </p>
        <div className="flex flex-wrap gap-2">
          {channel?.type !== 'normal' && (
            <Button variant="main" onClick={() => actions.fillCell(id, channelId)}>
              {channel?.type === 'colour' ? 'One colour' : 'One value'}
            </Button>
          )}
          <Button onClick={() => actions.openPalette({ kind: 'nodes', into: place })}>
            <Plus size={13} aria-hidden /> New node
          </Button>
          {layer.mask.length > 0 && (
            <Button onClick={() => actions.putMask(id, place)}>
              <Swatch output={{ kind: 'mask', layer: id }} className="size-4 rounded-full" /> Use this layer’s mask
            </Button>
          )}
        </div>
        <FittingSources place={place} type={channel?.type ?? 'grey'} />
        <p className="text-ink-soft">
          Or drag here: another cell (with Alt held both follow one source), a mask, a node or the end of a wire.
        </p>
      </SettingsFrame>
    )
  const target = { layer: id, channel: channelId } as const
  return (
    <SettingsFrame
      title={title}
      about={cell.off ? 'off' : blendWord(cell.blend)}
      tools={
        <>
          <Switches what={target} name="this cell" />
          <ToolButton icon={Maximize2} word="Show on the stage (Space)" onClick={() => actions.showSelection(place)} />
          <ToolButton icon={Trash2} word="Clear the cell (Delete)" onClick={() => actions.clear(place)} />
        </>
      }
    >
      {layer.kind === 'correction' && <Operations layer={id} channel={channel} />}
      <SourceField
        place={place}
        source={cell.source}
        type={channel.type}
        valueTarget={{ ...target, field: 'value' }}
        range={channel.range}
        signed={['add', 'subtract', 'signed-add'].includes(cell.blend)}
      />
      <ParameterField
        name="blend"
        parameter={choice({
          default: blendsFor(channel.type)[0]!,
          options: blendsFor(channel.type),
          help: 'How it is laid over what lies below.',
        })}
        target={{ ...target, field: 'blend' }}
        value={applied?.blend ?? cell.blend}
        label="Blend"
      />
      <ParameterField
        name="amount"
        parameter={AMOUNT}
        target={{ ...target, field: 'amount' }}
        value={applied?.amount ?? cell.amount}
        label="Amount"
      />
      {channel.type === 'colour' && !['normal', 'add', 'subtract'].includes(cell.blend) && (
        <div className="grid grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
          <FieldLabel
            label="Blended as"
            help="Encoded values are what picture editors blend; linear is what light does."
          />
          <Choice
            label="Blended as"
            value={cell.encoding}
            options={[
              { value: 'srgb', word: 'encoded values' },
              { value: 'linear', word: 'linear light' },
            ]}
            onChange={(encoding) =>
              actions.setCell(id, channelId, { encoding: encoding as 'srgb' | 'linear' }, 'Encoding')
            }
            className="justify-self-start"
          />
        </div>
      )}
      <Values />
    </SettingsFrame>
  )
}
