import { formatOutput } from '#core/document/address'
import { useDraggable, useDroppable } from '@dnd-kit/core'
import { ChevronDown, ChevronRight, Eye, EyeOff, Folder, FolderLock, SlidersHorizontal, StickyNote } from 'lucide-react'
import { memo } from 'react'
import type { Channel } from '#core/document/channels'
import type { Layer, PlainLayer } from '#core/document/document'
import { RenameInput } from '../../ui/rename-input'
import { ToolButton } from '../../ui/tool-button'
import { counted } from '../../ui/words'
import { bandName } from '../../session/engine/seen'
import { useActions, useEvaluation, useView, useWatched } from '../../session/material'
import { LayerCell } from './layer-cell'
import type { Dragged } from './sheet-layout'
import { CELL_WIDTH, NAME_WIDTH, ROW_HEIGHT } from './sheet-layout'
import type { SheetRow } from './rows'
import { writesTo } from './rows'
import { Swatch } from '../../session/parts/swatch'

/** The parts of a row one by one, so that rows that stay the same are not drawn again. */
interface LayerRowProps extends SheetRow {
  readonly index: number
  readonly channels: readonly Channel[]
  /** The column that Tab reaches, if it is in this row. */
  readonly active: string | null
  readonly selected: boolean
  readonly landing: 'above' | 'below' | 'into' | null
}

/** One layer: its share of the core, its mask, its name, and what it puts into each channel. */
export const LayerRow = memo(function LayerRow({
  layer,
  depth,
  disabled,
  index,
  channels,
  active,
  selected,
  landing,
}: LayerRowProps) {
  const ground = selected ? 'bg-[color-mix(in_srgb,var(--accent)_12%,var(--panel))]' : 'bg-panel'
  return (
    <div
      role="row"
      aria-rowindex={index}
      aria-selected={selected}
      data-layer={layer.id}
      className={`group/row relative flex border-b border-rule ${ground}`}
      style={{ height: ROW_HEIGHT }}
    >
      {landing === 'above' && <span className="absolute inset-x-0 -top-px z-30 h-0.5 bg-accent" />}
      {landing === 'below' && <span className="absolute inset-x-0 -bottom-px z-30 h-0.5 bg-accent" />}
      <div
        role="presentation"
        className={`sticky left-0 z-10 flex items-center ${ground} ${landing === 'into' ? 'ring-2 ring-accent ring-inset' : ''}`}
        style={{ width: NAME_WIDTH }}
      >
        <CoreBand layer={layer.id} />
        <span aria-hidden style={{ width: `${depth * 0.96}rem` }} className="shrink-0" />
        <MaskCell layer={layer} active={active === 'mask'} disabled={disabled} />
        <NameCell layer={layer} active={active === 'layer'} disabled={disabled} />
      </div>
      {channels.map((channel) =>
        layer.kind === 'group' ? (
          <GroupCell key={channel.id} layer={layer} channel={channel} active={active === channel.id} />
        ) : (
          <LayerCell
            key={channel.id}
            layer={layer as PlainLayer}
            channel={channel}
            active={active === channel.id}
            disabled={disabled}
          />
        ),
      )}
    </div>
  )
})

/** The layer's mean colour, as a piece of the core that the whole stack is. */
function CoreBand({ layer }: { layer: string }) {
  const colour = useEvaluation((evaluation) => evaluation.layerColours[layer])
  const watched = useWatched(bandName(layer))
  return (
    <span
      ref={watched}
      aria-hidden
      data-band={colour ?? ''}
      title={colour ? `Mean colour ${colour}` : 'Puts nothing into colour'}
      className={`ml-1 h-full w-2.5 shrink-0 ${colour ? '' : 'border-x border-dashed border-rule-strong'}`}
      style={colour ? { background: colour } : undefined}
    />
  )
}

function MaskCell({ layer, active, disabled }: { layer: Layer; active: boolean; disabled: boolean }) {
  const actions = useActions()
  const count = layer.mask.length
  const dragged: Dragged = { kind: 'mask', layer: layer.id, name: layer.name }
  const { setNodeRef: setDragRef, listeners } = useDraggable({
    id: `mask of ${layer.id}`,
    data: dragged,
    disabled: count === 0,
  })
  const { setNodeRef: setDropRef, isOver } = useDroppable({ id: `mask ${layer.id}`, data: { mask: layer.id } })
  return (
    <button
      ref={(element) => {
        setDragRef(element)
        setDropRef(element)
      }}
      {...listeners}
      type="button"
      role="gridcell"
      data-at={`${layer.id}/mask`}
      tabIndex={active ? 0 : -1}
      aria-label={`Mask of ${layer.name}: ${count === 0 ? 'none, the layer shows everywhere' : counted(count, 'entry', 'entries')}`}
      title={
        count === 0
          ? 'No mask: shows everywhere. Choose it to add one.'
          : `Mask of ${counted(count, 'entry', 'entries')}. Drag it onto a cell or another mask to use it there.`
      }
      onClick={() => actions.select({ kind: 'mask', layer: layer.id, entry: null })}
      className={`ml-1.5 grid size-(--sheet-mask) shrink-0 touch-none place-items-center rounded-full ${isOver ? 'bg-accent/25' : ''}`}
    >
      {count === 0 ? (
        <span className={`size-3/4 rounded-full border border-rule-strong bg-white ${disabled ? 'opacity-40' : ''}`} />
      ) : (
        <Swatch
          output={{ kind: 'mask', layer: layer.id }}
          className={`size-(--sheet-mask) rounded-full border border-rule-strong ${disabled ? 'opacity-40' : ''}`}
        />
      )}
    </button>
  )
}

function NameCell({ layer, active, disabled }: { layer: Layer; active: boolean; disabled: boolean }) {
  const actions = useActions()
  const folded = useView((view) => view.folded.has(layer.id))
  const renaming = useView((view) => view.renaming === layer.id)
  const dragged: Dragged = { kind: 'layer', layer: layer.id, name: layer.name }
  const { setNodeRef: setDragRef, listeners } = useDraggable({ id: `layer ${layer.id}`, data: dragged })
  const { setNodeRef: setDropRef } = useDroppable({
    id: `row ${layer.id}`,
    data: { layer: layer.id, group: layer.kind === 'group' },
  })
  const Icon = layer.kind === 'group' ? (layer.closed ? FolderLock : Folder) : SlidersHorizontal
  return (
    <div
      ref={setDropRef}
      role="gridcell"
      data-at={`${layer.id}/layer`}
      tabIndex={active ? 0 : -1}
      aria-labelledby={`name-${layer.id}`}
      onClick={(event) => event.currentTarget.focus()}
      onDoubleClick={() => actions.setView({ renaming: layer.id })}
      className={`flex h-full min-w-0 flex-1 items-center gap-1 px-1.5 scroll-mt-16 scroll-ml-60 focus-visible:-outline-offset-2 ${disabled ? 'text-ink-soft' : ''}`}
    >
      {layer.kind === 'group' && (
        <button
          type="button"
          tabIndex={-1}
          aria-label={folded ? `Unfold ${layer.name}` : `Fold ${layer.name}`}
          onClick={() => actions.fold(layer.id)}
          className="shrink-0 rounded hover:bg-ground"
        >
          {folded ? <ChevronRight size={14} aria-hidden /> : <ChevronDown size={14} aria-hidden />}
        </button>
      )}
      {renaming ? (
        <Rename layer={layer} />
      ) : (
        <span
          ref={setDragRef}
          {...listeners}
          className="min-w-0 flex-1 cursor-grab touch-none leading-tight"
          id={`name-${layer.id}`}
          title={`${layer.name}. Drag to move, double-click to rename.`}
        >
          <span className={`flex items-center gap-1 font-semibold ${disabled ? 'line-through decoration-1' : ''}`}>
            {layer.kind !== 'layer' && <Icon size={12} aria-hidden className="shrink-0 text-ink-soft" />}
            <span className="truncate">{layer.name}</span>
            {layer.note && (
              <span title={layer.note} className="shrink-0">
                <StickyNote size={11} aria-label="has a note" className="text-ink-soft" />
              </span>
            )}
          </span>{' '}
          <Subtitle layer={layer} /> <span className="sr-only">{`${layer.kind}${layer.off ? ', off' : ''}`}</span>
        </span>
      )}
      <ToolButton
        icon={layer.off ? EyeOff : Eye}
        word={layer.off ? `Switch ${layer.name} on` : `Switch ${layer.name} off`}
        tip={layer.off ? 'Switch on (O)' : 'Switch off (O)'}
        tabIndex={-1}
        onClick={() => actions.toggleEnabled({ layer: layer.id })}
        className={layer.off ? '' : 'opacity-0 group-hover/row:opacity-100 group-focus-within/row:opacity-100'}
      />
    </div>
  )
}

const kindInWords = (layer: Layer): string =>
  layer.kind === 'group'
    ? `${layer.closed ? 'closed' : 'open'} group of ${counted(layer.layers.length, 'layer')}`
    : layer.kind

/** What there is to know of a layer at a glance: its kind, how much of the surface its mask lets through. */
function Subtitle({ layer }: { layer: Layer }) {
  const mean = useEvaluation((evaluation) => evaluation.swatches[formatOutput({ kind: 'mask', layer: layer.id })]?.mean)
  const words = [
    layer.kind === 'layer' ? null : kindInWords(layer),
    layer.mask.length > 0 && mean !== undefined ? `covers ${Math.round(mean * 100)} %` : null,
    layer.amount < 1 ? `amount ${Math.round(layer.amount * 100)} %` : null,
  ].filter((word) => word !== null)
  return <span className="block truncate text-note text-ink-soft">{words.join(' · ') || 'covers all'}</span>
}

function Rename({ layer }: { layer: Layer }) {
  const actions = useActions()
  return (
    <RenameInput
      label={`Name of ${layer.name}`}
      name={layer.name}
      onName={(name) => actions.renameLayer(layer.id, name)}
      onEnd={() => actions.setView({ renaming: null })}
      // Keyboards go on from the row; a press elsewhere stays where it was made.
      leave={(field) => field.closest<HTMLElement>('[data-at]')?.focus()}
      className="min-w-0 flex-1 px-1.5 py-0.5"
    />
  )
}

/** What a group comes to in a channel; it has no cell of its own there. */
function GroupCell({ layer, channel, active }: { layer: Layer; channel: Channel; active: boolean }) {
  const writes = writesTo(layer, channel.id)
  return (
    <div
      role="gridcell"
      data-at={`${layer.id}/${channel.id}`}
      tabIndex={active ? 0 : -1}
      aria-label={`${layer.name}, ${channel.title}: ${writes ? 'what the group comes to' : 'nothing'}`}
      onClick={(event) => event.currentTarget.focus()}
      className="grid place-items-center scroll-mt-16 scroll-ml-60 focus-visible:-outline-offset-2"
      style={{ width: CELL_WIDTH }}
    >
      {writes && (
        <Swatch
          output={{ kind: 'layer', layer: layer.id, channel: channel.id }}
          className="size-5 rounded-sm opacity-80"
        />
      )}
    </div>
  )
}
