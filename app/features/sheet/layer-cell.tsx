import { useDraggable, useDroppable } from '@dnd-kit/core'
import { memo } from 'react'
import type { Channel } from '#core/document/channels'
import type { Cell, PlainLayer } from '#core/document/document'
import { useActions, useView } from '../../session/material'
import { backToSheet, openEditor } from '../../session/keyboard-focus'
import { blendWord, blendsFor, shortBlend } from '../../session/words/blend-words'
import type { Dragged } from './sheet-layout'
import { CELL_WIDTH } from './sheet-layout'
import { Swatch } from '../../session/parts/swatch'

interface LayerCellProps {
  readonly layer: PlainLayer
  readonly channel: Channel
  readonly active: boolean
  readonly disabled: boolean
}

/** What a layer puts into a channel: its source small, its amount as a bar, its blend as a word. */
export const LayerCell = memo(function LayerCell({ layer, channel, active, disabled }: LayerCellProps) {
  const actions = useActions()
  const cell = layer.cells[channel.id]
  const selected = useView(
    ({ selection }) => selection?.kind === 'cell' && selection.layer === layer.id && selection.channel === channel.id,
  )
  const { setNodeRef, isOver } = useDroppable({
    id: `cell ${layer.id} ${channel.id}`,
    data: { layer: layer.id, channel: channel.id },
  })
  return (
    <div
      ref={setNodeRef}
      role="gridcell"
      data-at={`${layer.id}/${channel.id}`}
      tabIndex={active ? 0 : -1}
      aria-label={cellInWords(layer, channel, cell)}
      onClick={(event) => event.currentTarget.focus()}
      onDoubleClick={() => {
        if (!cell) actions.fillCell(layer.id, channel.id)
        openEditor()
      }}
      className={`relative grid scroll-mt-16 scroll-ml-60 place-items-center focus-visible:-outline-offset-2 ${isOver ? 'bg-accent/20' : ''}`}
      style={{ width: CELL_WIDTH }}
    >
      {cell ? (
        <Filled
          layer={layer}
          channel={channel}
          cell={cell}
          selected={selected}
          disabled={disabled || cell.off === true}
        />
      ) : (
        <span
          aria-hidden
          title="Empty. Double-click or press Enter to put something in."
          className={`grid size-8 place-items-center rounded-sm ${selected ? 'ring-2 ring-accent' : ''}`}
        >
          <span className="size-1 rounded-full bg-rule-strong" />
        </span>
      )}
    </div>
  )
})

function cellInWords(layer: PlainLayer, channel: Channel, cell: Cell | undefined): string {
  if (!cell) return `${layer.name}, ${channel.title}: empty`
  const amount = `${Math.round(cell.amount * 100)} %`
  return `${layer.name}, ${channel.title}: ${blendWord(cell.blend)}, amount ${amount}${cell.off ? ', off' : ''}`
}

function Filled({
  layer,
  channel,
  cell,
  selected,
  disabled,
}: {
  layer: PlainLayer
  channel: Channel
  cell: Cell
  selected: boolean
  disabled: boolean
}) {
  const actions = useActions()
  const dragged: Dragged = { kind: 'cell', layer: layer.id, channel: channel.id }
  const { setNodeRef, listeners } = useDraggable({ id: `drag ${layer.id} ${channel.id}`, data: dragged })
  const short = shortBlend(cell.blend)
  return (
    <>
      <span
        ref={setNodeRef}
        {...listeners}
        title="Drag copies, Alt-drag links"
        className={`-ml-2 touch-none ${disabled ? 'opacity-35' : ''}`}
      >
        <Swatch
          output={{ kind: 'cell', layer: layer.id, channel: channel.id }}
          className={`size-(--sheet-swatch) rounded-sm ${selected ? 'ring-2 ring-accent ring-offset-1 ring-offset-panel' : ''}`}
        />
      </span>
      <AmountBar layer={layer.id} channel={channel.id} amount={cell.amount} />
      <select
        tabIndex={-1}
        aria-label={`Blend of ${layer.name}, ${channel.title}`}
        title={`Blend: ${blendWord(cell.blend)}`}
        value={cell.blend}
        onPointerDown={(event) => event.stopPropagation()}
        onDoubleClick={(event) => event.stopPropagation()}
        onChange={(event) => {
          actions.setTarget('Blend', { layer: layer.id, channel: channel.id, field: 'blend' }, event.target.value)
          backToSheet()
        }}
        className={`absolute bottom-0 left-1/2 h-3 [field-sizing:content] max-w-11 min-w-4 -translate-x-[calc(50%+4px)] appearance-none truncate rounded border border-rule-strong bg-raised px-1 text-center font-mono text-tiny leading-none ${
          short === '' ? 'opacity-0 group-hover/row:opacity-100' : ''
        }`}
      >
        {blendsFor(channel.type).map((blend) => (
          <option key={blend} value={blend}>
            {blend === cell.blend ? short || 'over' : blendWord(blend)}
          </option>
        ))}
      </select>
    </>
  )
}

/** The amount of a cell: dragged up and down. Keyboards set it in the cell's editor. */
function AmountBar({ layer, channel, amount }: { layer: string; channel: string; amount: number }) {
  const actions = useActions()
  const target = { layer, channel, field: 'amount' as const }
  const follow = (event: React.PointerEvent<HTMLElement>): void => {
    const { top, height } = event.currentTarget.getBoundingClientRect()
    const ratio = 1 - (event.clientY - top) / height
    actions.dragTarget('Amount', target, Math.round(Math.min(1, Math.max(0, ratio)) * 100) / 100)
  }
  return (
    <span
      aria-hidden
      data-amount={amount}
      title={`Amount ${Math.round(amount * 100)} %: drag up or down`}
      onPointerDown={(event) => {
        event.stopPropagation()
        event.currentTarget.setPointerCapture(event.pointerId)
        follow(event)
      }}
      onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && follow(event)}
      onPointerUp={actions.drop}
      onPointerCancel={actions.drop}
      className="absolute top-1 right-1.5 bottom-1 flex w-2 cursor-ns-resize touch-none justify-center"
    >
      <span className="relative w-[3px] overflow-hidden rounded-full bg-rule">
        <span className="absolute inset-x-0 bottom-0 bg-ink" style={{ height: `${amount * 100}%` }} />
      </span>
    </span>
  )
}
