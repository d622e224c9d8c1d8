import { channelOutput } from '#core/document/address'
import type { DragEndEvent } from '@dnd-kit/core'
import { DndContext, DragOverlay, pointerWithin } from '@dnd-kit/core'
import { CopyPlus } from 'lucide-react'
import { useRef, useState } from 'react'
import { addFile, copySlot, putChannel, removeFile, setSlot, swapSlots } from '#core/texture/edit-packing'
import type { ContextItem } from '../../ui/context-menu'
import { ContextMenu } from '../../ui/context-menu'
import { AT_THE_EDGE, useDragSensors } from '../../ui/drag'
import { useModifiers } from '../../ui/use-modifiers'
import { useEvaluation, useMaterial } from '../../session/material'
import { Swatch } from '../../session/parts/swatch'
import { ChannelTray } from './channel-tray'
import { FileRow, NewFileRow } from './file-row'
import type { Carried } from './files'
import { COLUMNS, SHEET_GRID, inverted, useEditFiles, useFiles } from './files'
import type { SheetPlace } from './maps'
import { NEW_FILE, useChannels, useMaps, useMapsView } from './maps'
import { useNames } from './names'
import { PackingsBar } from './packings-bar'
import { SLOT_NAMES } from './slot-words'
import { Picture } from '../../ui/picture'

/** Files by R, G, B, A: which channel goes where. */
export function PackingSheet() {
  const { files, resolved, problem } = useFiles()
  const { names, clashing } = useNames()
  const channels = useChannels()
  const { view } = useMaps()
  const { actions } = useMaterial()
  const place = useMapsView((one) => one.place)
  const edit = useEditFiles()
  const pictures = useEvaluation((one) => one.packing.files)
  const [carried, setCarried] = useState<Carried | null>(null)
  const [held, beginModifiers] = useModifiers(carried !== null)
  const sensors = useDragSensors()
  const grid = useRef<HTMLDivElement>(null)
  const rows = [...files.map(({ map }) => map), NEW_FILE]
  // A file that is gone gives the keyboard to the first.
  const active: SheetPlace = rows.includes(place.map) ? place : { map: rows[0]!, column: 'file' }

  const drop = ({ active: source, over }: DragEndEvent): void => {
    const what = source.data.current as Carried
    const to = over?.data.current as { map: string; slot: number } | undefined
    setCarried(null)
    if (!to) return
    if (what.kind === 'channel') {
      const channel = channels.find(({ id }) => id === what.channel)!
      if (to.map === NEW_FILE) edit(`New file of ${what.title}`, (now) => addFile(now, channel, channels))
      else
        edit(`${what.title} into ${to.map} ${SLOT_NAMES[to.slot]}`, (now) =>
          putChannel(now, to.map, to.slot, channel, channels),
        )
    } else if (to.map !== NEW_FILE)
      edit(held.alt ? 'Link a slot' : held.command ? 'Copy a slot' : 'Swap two slots', (now) =>
        held.alt || held.command ? copySlot(now, what, to, held.alt, channels) : swapSlots(now, what, to, channels),
      )
  }

  const go = (next: SheetPlace): void => {
    view.setState({ place: next })
    const target = grid.current?.querySelector<HTMLElement>(`[data-at="${CSS.escape(`${next.map}/${next.column}`)}"]`)
    target?.focus({ preventScroll: true })
    target?.scrollIntoView({ block: 'nearest' })
  }
  const press = (event: React.KeyboardEvent): void => {
    const cell = event.target as HTMLElement
    if (cell.dataset.at === undefined) return
    const { map, column } = active
    const row = rows.indexOf(map)
    const at = COLUMNS.indexOf(column)
    const slot = typeof column === 'number' ? column : null
    const done = (work: () => void): void => {
      event.preventDefault()
      event.stopPropagation()
      work()
    }
    const moves: Record<string, [number, number]> = {
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
      ArrowUp: [-1, 0],
      ArrowDown: [1, 0],
      Home: [0, -9],
      End: [0, 9],
    }
    const move = moves[event.key]
    const command = event.ctrlKey || event.metaKey
    if (move && !command && !event.altKey)
      return done(() =>
        go({
          map: rows[Math.min(rows.length - 1, Math.max(0, row + move[0]))]!,
          column: COLUMNS[Math.min(COLUMNS.length - 1, Math.max(0, at + move[1]))]!,
        }),
      )
    if (map === NEW_FILE) {
      if (event.key === 'Enter') done(() => edit('New file', (now) => addFile(now, null, channels)))
      return
    }
    if (command) {
      if (event.key === 'c' && slot !== null && files[row]!.slots[slot])
        done(() => {
          view.setState({ clip: { map, slot } })
          actions.notify('Slot copied. Ctrl V pastes it, Ctrl Shift V links it.')
        })
      const { clip } = view.getState()
      if (event.key.toLowerCase() === 'v' && slot !== null && clip)
        done(() =>
          edit(event.shiftKey ? 'Link a slot' : 'Paste a slot', (now) =>
            copySlot(now, clip, { map, slot }, event.shiftKey, channels),
          ),
        )
      return
    }
    if (event.altKey) return
    if (event.key === 'Enter' || (event.key === 'F2' && slot === null))
      return done(() => view.setState({ editing: true }))
    if (event.key === ' ') return done(() => (slot === null || files[row]!.slots[slot]) && showOnStage(map, slot))
    if (event.key === 'Delete' || event.key === 'Backspace')
      return done(() =>
        slot === null
          ? column === 'file' && edit(`Delete file ${map}`, (now) => removeFile(now, map))
          : edit(`Clear ${map} ${SLOT_NAMES[slot]}`, (now) => setSlot(now, map, slot, null, channels)),
      )
    if (event.key.toLowerCase() === 'i' && slot !== null) {
      const slotPlan = files[row]!.slots[slot]
      if (slotPlan && 'channel' in slotPlan)
        done(() =>
          edit(`Invert ${map} ${SLOT_NAMES[slot]}`, (now) => setSlot(now, map, slot, inverted(slotPlan), channels)),
        )
    }
  }
  const showOnStage = (map: string, slot: number | null): void => {
    actions.setStage({ shown: slot === null ? { kind: 'file', map } : { kind: 'slot', map, slot }, mode: 'flat' })
    view.setState({ marked: null })
  }

  const menuAt = (target: Element): readonly ContextItem[] => {
    const [map = '', column = ''] = target.closest<HTMLElement>('[data-at]')?.dataset.at?.split('/') ?? []
    const file = files.find((one) => one.map === map)
    if (!file) return []
    const at: SheetPlace = { map, column: COLUMNS.find((one) => String(one) === column)! }
    view.setState({ place: at })
    const open = (): void => view.setState({ place: at, editing: true })
    if (typeof at.column !== 'number')
      return [
        { word: at.column === 'form' ? 'How it is written' : 'Name and format', keys: 'Enter', run: open },
        { word: 'Show the file on the stage', keys: 'Space', run: () => showOnStage(map, null) },
        'rule',
        {
          word: `Delete ${map}`,
          keys: 'Delete',
          run: () => edit(`Delete file ${map}`, (now) => removeFile(now, map)),
        },
      ]
    const slot = at.column
    const plan = file.slots[slot]
    const { clip } = view.getState()
    const paste = (link: boolean) => (): void =>
      edit(link ? 'Link a slot' : 'Paste a slot', (now) => copySlot(now, clip!, { map, slot }, link, channels))
    return [
      { word: 'What it holds', keys: 'Enter', run: open },
      ...(plan && 'channel' in plan
        ? [
            {
              word: 'Invert',
              keys: 'I',
              run: () =>
                edit(`Invert ${map} ${SLOT_NAMES[slot]}`, (now) => setSlot(now, map, slot, inverted(plan), channels)),
            },
          ]
        : []),
      ...(plan ? [{ word: 'Show on the stage', keys: 'Space', run: () => showOnStage(map, slot) }] : []),
      'rule',
      ...(plan ? [{ word: 'Copy', keys: 'Ctrl C', run: () => view.setState({ clip: { map, slot } }) }] : []),
      ...(clip
        ? [
            { word: 'Paste', keys: 'Ctrl V', run: paste(false) },
            { word: 'Paste linked', keys: 'Ctrl Shift V', run: paste(true) },
          ]
        : []),
      ...(plan
        ? [
            {
              word: 'Clear',
              keys: 'Delete',
              run: () => edit(`Clear ${map} ${SLOT_NAMES[slot]}`, (now) => setSlot(now, map, slot, null, channels)),
            },
          ]
        : []),
    ]
  }

  return (
    <DndContext
      sensors={sensors}
      collisionDetection={pointerWithin}
      autoScroll={AT_THE_EDGE}
      onDragStart={({ active: source, activatorEvent }) => {
        setCarried(source.data.current as Carried)
        beginModifiers(activatorEvent)
      }}
      onDragEnd={drop}
      onDragCancel={() => setCarried(null)}
    >
      <section aria-label="Files" className="flex h-full min-h-0 flex-col bg-panel" data-guide="files">
        <PackingsBar files={files} />
        <ChannelTray />
        {problem && (
          <p role="alert" className="border-b border-rule bg-raised px-3 py-1.5">
            ■ {problem}
          </p>
        )}
        <ContextMenu itemsFor={menuAt}>
          <div
            ref={grid}
            role="grid"
            aria-label="Files by red, green, blue and alpha"
            aria-rowcount={rows.length + 1}
            aria-colcount={COLUMNS.length}
            className="min-h-0 flex-1 overflow-auto bg-ground/60 select-none"
            onKeyDown={press}
            onFocus={(event) => {
              const at = (event.target as HTMLElement).dataset.at
              if (at === undefined) return
              const [map = '', column = 'file'] = at.split('/')
              view.setState({ place: { map, column: COLUMNS.find((one) => String(one) === column)! } })
            }}
          >
            <div role="row" className={`${SHEET_GRID} sticky top-0 z-10 bg-panel text-ink-soft`}>
              {['File', ...SLOT_NAMES, 'Format'].map((head) => (
                <span key={head} role="columnheader" className="border-b border-rule px-3 py-1">
                  {head}
                </span>
              ))}
            </div>
            {files.map((file, i) => (
              <FileRow
                key={file.map}
                file={file}
                resolved={resolved?.[i] ?? null}
                name={names?.[file.map] ?? `${file.map}.${file.format}`}
                clashes={clashing.has(file.map)}
                active={active.map === file.map ? active.column : null}
                pictures={pictures[file.map] ?? null}
              />
            ))}
            <NewFileRow active={active.map === NEW_FILE} />
          </div>
        </ContextMenu>
      </section>
      <DragOverlay dropAnimation={null}>
        {carried && (
          <span className="flex w-max items-center gap-2 rounded-md border border-accent bg-raised px-2 py-1 shadow-lg">
            {carried.kind === 'slot' ? (
              <>
                <Picture picture={pictures[carried.map]?.slots[carried.slot]} className="size-8 rounded-sm" />
                {held.alt ? 'link' : held.command ? 'copy' : 'swap (Ctrl copies, Alt links)'}
              </>
            ) : (
              <>
                <Swatch output={channelOutput(carried.channel)} className="size-8 rounded-sm" /> {carried.title}
              </>
            )}
            <CopyPlus size={14} aria-hidden />
          </span>
        )}
      </DragOverlay>
    </DndContext>
  )
}
