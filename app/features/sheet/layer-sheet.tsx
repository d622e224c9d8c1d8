import type { DragEndEvent, DragMoveEvent } from '@dnd-kit/core'
import { DndContext, DragOverlay, pointerWithin } from '@dnd-kit/core'
import { CopyPlus, Layers as LayersIcon, Plus, Search } from 'lucide-react'
import { memo, useMemo, useRef, useState } from 'react'
import type { Channel } from '#core/document/channels'
import type { Landing } from '#core/document/edits/layers'
import { channelsOf } from '#core/document/channels'
import { Button } from '../../ui/button'
import type { ContextItem } from '../../ui/context-menu'
import { ContextMenu } from '../../ui/context-menu'
import { AT_THE_EDGE, useDragSensors } from '../../ui/drag'
import { Menu, MenuItem } from '../../ui/menu'
import { ToolButton } from '../../ui/tool-button'
import { useModifiers } from '../../ui/use-modifiers'
import { useFileDrop } from '../../ui/use-file-drop'
import { counted } from '../../ui/words'
import { useActions, useApplied, useMaterial, useUndialled, useView } from '../../session/material'
import { focusSelectedRow } from '../../session/keyboard-focus'
import type { Selection } from '../../session/view'
import { sameSelection } from '../../session/view'
import { ChannelHead, NewChannel } from './channel-head'
import type { SheetRow } from './rows'
import { isSought } from './find-layers'
import { cellOf, countLayers, matchingRows, selectionAt, sheetRows, stepFrom, writesTo } from './rows'
import { LayerRow } from './layer-row'
import { HiddenChannels } from './hidden-channels'
import { useSheetKeys } from './sheet-keys'
import { sheetMenu } from './sheet-menu'
import type { Dragged } from './sheet-layout'
import { NAME_WIDTH, sheetLengths, shownChannels } from './sheet-layout'
import { SheetOptions } from './sheet-options'
import { Swatch } from '../../session/parts/swatch'

/** Layers by channels: the heart of the screen. */
export function LayerSheet() {
  const { view, actions } = useMaterial()
  // As dials leave it: amounts and blends that are driven show what they are.
  const layers = useApplied((document) => document.layers)
  const own = useApplied((document) => document.channels)
  const folded = useView((one) => one.folded)
  const dials = useApplied((document) => document.dials.length)
  const sheet = useView((one) => one.sheet)
  const all = useMemo(() => channelsOf({ channels: own }), [own])
  const channels = useMemo(
    () => shownChannels(all, sheet, (id) => layers.some((layer) => writesTo(layer, id))),
    [all, sheet, layers],
  )
  const document = useUndialled()
  const [sought, setSought] = useState<string | null>(null)
  const word = sought?.trim() ?? ''
  const rows = useMemo(
    () => (word === '' ? sheetRows(layers, folded) : matchingRows(layers, (layer) => isSought(document, layer, word))),
    [layers, folded, document, word],
  )
  const { over, handlers } = useFileDrop((files, { target }) => {
    const at = (target as Element).closest<HTMLElement>('[role=row] [data-at]')?.dataset.at?.split('/')
    const [row, column] = at ?? []
    const isCell = row !== undefined && column !== undefined && row !== 'head' && column !== 'layer'
    void actions.dropImages(files, { place: isCell ? (selectionAt(row, column) as Selection) : undefined })
  })
  return (
    <section
      aria-label="Layers"
      className={`flex h-full min-h-0 flex-col bg-panel ${over ? 'outline-2 -outline-offset-2 outline-accent' : ''}`}
      data-guide="layers"
      {...handlers}
      onKeyDown={(event) => {
        if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'f') return
        event.preventDefault()
        setSought(sought ?? '')
      }}
    >
      <header className="flex h-10 shrink-0 items-center gap-3 border-b border-rule px-3">
        <h2 className="font-semibold">Layers</h2>
        {sought === null ? (
          <span className="min-w-0 flex-1 truncate font-mono text-note text-ink-soft">
            {countLayers({ layers })} over {counted(all.length, 'channel')}
          </span>
        ) : (
          <input
            type="search"
            autoFocus
            aria-label="Find layers"
            placeholder="Name, note, or what they read"
            value={sought}
            onChange={({ target }) => setSought(target.value)}
            onBlur={() => word === '' && setSought(null)}
            onKeyDown={(event) => {
              if (event.key !== 'Escape') return
              event.stopPropagation()
              setSought(null)
            }}
            className="min-w-0 flex-1 rounded border border-rule-strong bg-raised px-2 py-0.5"
          />
        )}
        <ToolButton
          icon={Search}
          word="Find layers"
          tip="Find layers in the sheet (Ctrl F)"
          pressed={sought !== null}
          onClick={() => setSought(sought === null ? '' : null)}
        />
        <HiddenChannels channels={channels} />
        <SheetOptions channels={all} />
        <AddMenu />
        <Button onClick={() => view.setState({ tab: 'dials' })} data-guide="dials">
          Dials {dials > 0 && <span className="font-mono">{dials}</span>}
        </Button>
      </header>
      <Grid rows={rows} channels={channels} sought={word} />
    </section>
  )
}

function AddMenu() {
  const actions = useActions()
  const items = [
    {
      word: 'Layer of a plain colour',
      about: 'colour and roughness to begin with',
      run: () => actions.addLayer('layer', true),
    },
    { word: 'Empty layer', about: 'fill the cells you need', run: () => actions.addLayer('layer') },
    { word: 'Correction', about: 'changes what lies below it', run: () => actions.addLayer('correction') },
    { word: 'Group', about: 'layers under one mask', run: () => actions.addLayer('group') },
  ]
  return (
    <Menu
      trigger={
        <Button data-guide="add">
          <Plus size={14} aria-hidden /> Add
        </Button>
      }
    >
      {items.map(({ word, about, run }) => (
        <MenuItem
          key={word}
          onSelect={() => {
            run()
            focusSelectedRow()
          }}
        >
          {word} <span className="text-ink-soft">· {about}</span>
        </MenuItem>
      ))}
    </Menu>
  )
}

const Grid = memo(function Grid({
  rows,
  channels,
  sought,
}: {
  rows: readonly SheetRow[]
  channels: readonly Channel[]
  /** What the rows were found by; empty where they are all. */
  sought: string
}) {
  const actions = useActions()
  const { view } = useMaterial()
  const place = useView((one) => one.selection)
  const grid = useRef<HTMLDivElement>(null)
  const [cursor, setCursor] = useState<{ row: string; column: string }>({
    row: rows[0]?.layer.id ?? 'head',
    column: rows[0] ? 'layer' : 'colour',
  })
  const [dragged, setDragged] = useState<Dragged | null>(null)
  const [landing, setLanding] = useState<(Landing & { over: string }) | null>(null)
  const [{ alt: linking }, beginModifiers] = useModifiers(dragged !== null)
  const sensors = useDragSensors()
  const ids = useMemo(() => channels.map((channel) => channel.id), [channels])
  const sheet = useView((one) => one.sheet)
  const lengths = useMemo(() => sheetLengths(sheet, channels.length), [sheet, channels])
  const keys = useSheetKeys()

  const also = useView((one) => one.alsoLayers)
  const order = useMemo(() => rows.map(({ layer }) => layer.id), [rows])
  /** Whether a press has just chosen several rows. */
  const chosen = useRef(false)
  const { control } = useMaterial()
  const menuAt = (target: Element): readonly ContextItem[] => {
    const cell = target.closest<HTMLElement>('[data-at]')
    const [row, column] = cell?.dataset.at?.split('/') ?? []
    if (row === undefined || column === undefined) return []
    const where = selectionAt(row, column) as Selection
    // A row among several that are chosen leaves them chosen.
    const several = where.kind === 'layer' && actions.layersWith(where.layer).length > 1
    if (!several) actions.select(where)
    return sheetMenu(control.store.getState().document, actions, view.getState(), where)
  }
  /** Shift with an arrow: one more row is chosen, or one less, from the one chosen first. */
  const extend = (by: 1 | -1): void => {
    const main = actions.selectedLayer()
    const from = main === null ? -1 : order.indexOf(main)
    if (from < 0) return
    const ends = also.map((layer) => order.indexOf(layer)).filter((index) => index >= 0)
    const far = ends.reduce((at, index) => (Math.abs(index - from) > Math.abs(at - from) ? index : at), from)
    const next = order[far + by]
    if (next !== undefined) actions.selectUpTo(next, order)
  }
  const focusAt = (at: { row: string; column: string }): void => {
    setCursor(at)
    const target = grid.current?.querySelector<HTMLElement>(`[data-at="${CSS.escape(`${at.row}/${at.column}`)}"]`)
    target?.focus({ preventScroll: true })
    target?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  }

  // The one cell that Tab reaches follows what is chosen; a row that is gone gives it to the topmost.
  const wanted = place ? cellOf(place) : cursor
  const there = wanted.row === 'head' ? ids.includes(wanted.column) : rows.some(({ layer }) => layer.id === wanted.row)
  const active = there ? wanted : { row: rows[0]?.layer.id ?? 'head', column: rows[0] ? 'layer' : 'colour' }

  const onMove = ({ active: source, over, activatorEvent, delta }: DragMoveEvent): void => {
    const what = source.data.current as Dragged
    const target = over?.data.current as { layer?: string; group: boolean } | undefined
    if (what.kind !== 'layer' || !over || target?.layer === undefined) return setLanding(null)
    const y = (activatorEvent as PointerEvent).clientY + delta.y
    const ratio = (y - over.rect.top) / over.rect.height
    const into = target.group && ratio > 0.3 && ratio < 0.7
    setLanding(
      into
        ? { into: target.layer, over: target.layer }
        : { beside: target.layer, side: ratio < 0.5 ? 'above' : 'below', over: target.layer },
    )
  }
  const onEnd = ({ active: source, over }: DragEndEvent): void => {
    const what = source.data.current as Dragged
    if (what.kind === 'layer') {
      if (landing) actions.moveLayer(what.layer, landing)
    } else {
      const to = over?.data.current as { layer: string; channel?: string } | { mask: string } | undefined
      const place: Selection | null = !to
        ? null
        : 'mask' in to
          ? { kind: 'mask', layer: to.mask, entry: null }
          : to.channel
            ? { kind: 'cell', layer: to.layer, channel: to.channel }
            : null
      if (place && what.kind === 'mask') actions.putMask(what.layer, place)
      else if (place && what.kind === 'cell') actions.putCell(what, place, linking)
    }
    setDragged(null)
    setLanding(null)
  }

  return (
    <DndContext
      sensors={sensors}
      collisionDetection={pointerWithin}
      autoScroll={AT_THE_EDGE}
      onDragStart={({ active: source, activatorEvent }) => {
        setDragged(source.data.current as Dragged)
        beginModifiers(activatorEvent)
      }}
      onDragMove={onMove}
      onDragEnd={onEnd}
      onDragCancel={() => {
        setDragged(null)
        setLanding(null)
      }}
    >
      <ContextMenu itemsFor={menuAt}>
        <div
          ref={grid}
          role="grid"
          aria-label="Layers by channels, topmost layer first"
          aria-rowcount={rows.length + 1}
          aria-colcount={channels.length + 2}
          aria-multiselectable
          className="@container relative min-h-0 flex-1 overflow-auto bg-ground/60 select-none"
          onKeyDown={(event) => {
            const cell = (event.target as HTMLElement).closest<HTMLElement>('[data-at]')
            if (!cell || cell !== event.target) return
            const [row = '', column = ''] = cell.dataset.at!.split('/')
            if (event.shiftKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
              event.preventDefault()
              return extend(event.key === 'ArrowUp' ? -1 : 1)
            }
            if (
              ['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', 'Home', 'End'].includes(event.key) &&
              !event.altKey
            ) {
              event.preventDefault()
              return focusAt(stepFrom(rows, ids, { row, column }, event.key))
            }
            keys.press(event, selectionAt(row, column))
          }}
          onKeyUp={keys.release}
          onPointerDownCapture={(event) => {
            const name = (event.target as HTMLElement).closest<HTMLElement>('[data-at$="/layer"]')
            const layer = name?.closest<HTMLElement>('[data-layer]')?.dataset.layer
            if (layer === undefined) return
            // The menu is of all that are chosen: the press must not choose this row alone.
            if (event.button === 2 && actions.layersWith(layer).length > 1) return event.preventDefault()
            if (event.button !== 0 || !(event.shiftKey || event.ctrlKey || event.metaKey)) return
            // The press chooses; it neither drags nor takes the focus, which would choose this row alone.
            event.preventDefault()
            event.stopPropagation()
            chosen.current = true
            if (event.shiftKey) actions.selectUpTo(layer, order)
            else actions.alsoSelect(layer)
          }}
          onClickCapture={(event) => {
            if (chosen.current) event.stopPropagation()
            // A plain press on a name chooses that row alone.
            else if ((event.target as HTMLElement).closest('[data-at$="/layer"]')) actions.setView({ alsoLayers: [] })
            chosen.current = false
          }}
          onClick={(event) => {
            // A press on what is chosen already comes back to it from a node.
            const { selection, selectedNodes } = view.getState()
            const at = (event.target as HTMLElement).closest<HTMLElement>('[data-at]')?.dataset.at
            if (!selection || selectedNodes.length === 0 || !at) return
            const { row, column } = cellOf(selection)
            if (at === `${row}/${column}`) actions.select(selection)
          }}
          onFocus={(event) => {
            const cell = event.target as HTMLElement
            if (!cell.dataset.at) return
            const [row = '', column = ''] = cell.dataset.at.split('/')
            setCursor({ row, column })
            const next = selectionAt(row, column)
            // A mask keeps its chosen entry.
            const now = view.getState().selection
            const same = now?.kind === 'mask' && next.kind === 'mask' && now.layer === next.layer
            if (!same && !sameSelection(now, next)) actions.select(next as Selection)
          }}
        >
          <div className="min-w-max" style={lengths}>
            <div role="row" aria-rowindex={1} className="sticky top-0 z-20 flex bg-panel">
              <span
                role="columnheader"
                className="sticky left-0 z-10 flex items-end bg-panel pr-2 pb-1 pl-3 text-ink-soft"
                style={{ width: NAME_WIDTH }}
              >
                <span className="flex-1">result of each channel</span>
                <NewChannel />
              </span>
              {channels.map((channel) => (
                <ChannelHead
                  key={channel.id}
                  channel={channel}
                  active={active.row === 'head' && active.column === channel.id}
                />
              ))}
            </div>
            {rows.map((row, index) => (
              <LayerRow
                key={row.layer.id}
                {...row}
                index={index + 2}
                channels={channels}
                active={active.row === row.layer.id ? active.column : null}
                selected={
                  (place !== null && 'layer' in place && place.layer === row.layer.id) || also.includes(row.layer.id)
                }
                landing={landing?.over === row.layer.id ? ('into' in landing ? 'into' : landing.side) : null}
              />
            ))}
          </div>
          {rows.length === 0 && <EmptySheet sought={sought} />}
        </div>
      </ContextMenu>
      <DragOverlay dropAnimation={null}>
        {dragged && (
          <span className="flex w-max items-center gap-2 rounded-md border border-accent bg-raised px-2 py-1 shadow-lg">
            {dragged.kind === 'cell' ? (
              <>
                <Swatch
                  output={{ kind: 'cell', layer: dragged.layer, channel: dragged.channel }}
                  className="size-8 rounded-sm"
                />
                {linking ? 'link' : 'copy (Alt links)'}
                <CopyPlus size={14} aria-hidden />
              </>
            ) : dragged.kind === 'mask' ? (
              <>
                <Swatch output={{ kind: 'mask', layer: dragged.layer }} className="size-8 rounded-full" />
                mask of {dragged.name}
              </>
            ) : (
              <>
                <LayersIcon size={14} aria-hidden />{' '}
                {actions.layersWith(dragged.layer).length > 1
                  ? `${actions.layersWith(dragged.layer).length} layers`
                  : dragged.name}
              </>
            )}
          </span>
        )}
      </DragOverlay>
    </DndContext>
  )
})

function EmptySheet({ sought }: { sought: string }) {
  const actions = useActions()
  if (sought !== '')
    return <p className="m-6 text-ink-soft">No layer has “{sought}” in its name, its note or what it reads.</p>
  return (
    <div className="m-6 rounded-lg border border-dashed border-rule-strong p-6 text-center text-ink-soft">
      <p>This material has no layers yet.</p>
      <Button variant="main" className="mt-3" onClick={() => actions.addLayer('layer', true)}>
        Add a layer of a plain colour
      </Button>
    </div>
  )
}
