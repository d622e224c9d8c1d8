import { useDraggable, useDroppable } from '@dnd-kit/core'
import { Popover } from 'radix-ui'
import { ChevronDown, Plus } from 'lucide-react'
import { memo } from 'react'
import { addFile } from '#core/texture/edit-packing'
import { engineMemory } from '#core/texture/engine-memory'
import type { FilePlan, PackedFile } from '#core/texture/packing'
import type { FilePictures } from '#runtime/browser/protocol'
import { bytesInWords } from '../../ui/words'
import { useActions } from '../../session/material'
import { FileEditor, SlotEditor } from './editors'
import type { SheetPlace } from './maps'
import { NEW_FILE, useChannels, useMaps, useMapsView } from './maps'
import type { Carried } from './files'
import { SHEET_GRID, useEditFiles, useSizeFor } from './files'
import { Picture } from '../../ui/picture'
import { SLOT_NAMES, formInWords, lossInWords, slotInWords, slotWord } from './slot-words'

const CELL = 'relative border-b border-rule focus-visible:-outline-offset-2'

/** One file: its picture and name, what is in its slots, and how it is written. */
export const FileRow = memo(function FileRow({
  file,
  resolved,
  name,
  clashes,
  active,
  pictures,
}: {
  file: FilePlan
  /** With what its slots follow written out; null where that cannot be. */
  resolved: PackedFile | null
  name: string
  /** Whether another file would be called the same. */
  clashes: boolean
  active: SheetPlace['column'] | null
  pictures: FilePictures | null
}) {
  const { view } = useMaps()
  const { width, dither } = useMapsView((one) => one.settings)
  const size = useSizeFor()(width)
  const memory = resolved && typeof size !== 'string' ? engineMemory(resolved, size.width, size.height) : null
  return (
    <div role="row" aria-label={file.map} className={`${SHEET_GRID} min-h-[5.44rem]`} data-file={file.map}>
      <EditorPopover map={file.map} column="file" editor={<FileEditor file={file} />}>
        <FileCell file={file} name={name} clashes={clashes} active={active === 'file'} pictures={pictures} />
      </EditorPopover>
      {([0, 1, 2, 3] as const).map((slot) => (
        <EditorPopover key={slot} map={file.map} column={slot} editor={<SlotEditor file={file} slot={slot} />}>
          <SlotCell file={file} index={slot} active={active === slot} pictures={pictures} />
        </EditorPopover>
      ))}
      <EditorPopover map={file.map} column="form" editor={<FileEditor file={file} />}>
        <div
          role="gridcell"
          data-at={`${file.map}/form`}
          tabIndex={active === 'form' ? 0 : -1}
          aria-label={`${file.map}: ${formInWords(file, dither)}`}
          onClick={(event) => event.currentTarget.focus()}
          onDoubleClick={() => view.setState({ editing: true })}
          className={`${CELL} flex flex-col justify-center px-3 ${active === 'form' ? 'bg-accent/10' : ''}`}
        >
          <span>{formInWords(file, dither)}</span>
          <EditButton place={{ map: file.map, column: 'form' }} word={`How ${file.map} is written`} />
          {memory && (
            <span className="font-mono text-note text-ink-soft">
              <span title="In the engine, with mips">
                {bytesInWords(memory.blocks ?? memory.plain)} {memory.format ?? 'plain'}
              </span>
              {pictures?.loss && (
                <span title="What rounding, dither and compression leave: the peak over what is lost, at the preview size">
                  {' · '}
                  {lossInWords(pictures.loss)}
                </span>
              )}
            </span>
          )}
        </div>
      </EditorPopover>
    </div>
  )
})

function EditorPopover({
  map,
  column,
  editor,
  children,
}: {
  map: string
  column: SheetPlace['column']
  editor: React.ReactNode
  children: React.ReactNode
}) {
  const { view } = useMaps()
  const open = useMapsView((one) => one.editing && one.place.map === map && one.place.column === column)
  return (
    <Popover.Root open={open} onOpenChange={(next) => !next && view.setState({ editing: false })}>
      <Popover.Anchor asChild>{children}</Popover.Anchor>
      <Popover.Portal>
        <Popover.Content
          side="bottom"
          align="start"
          sideOffset={4}
          aria-label={`${map}, ${typeof column === 'number' ? SLOT_NAMES[column] : 'file'}`}
          className="z-40 w-72 rounded-lg border border-rule-strong bg-panel p-3 shadow-lg"
          onCloseAutoFocus={(event) => {
            event.preventDefault()
            document.querySelector<HTMLElement>(`[data-at="${CSS.escape(`${map}/${column}`)}"]`)?.focus()
          }}
        >
          {editor}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

/** What opens the editor of a cell; keyboards have Enter. */
function EditButton({ place, word }: { place: SheetPlace; word: string }) {
  const { view } = useMaps()
  return (
    <button
      type="button"
      tabIndex={-1}
      aria-label={word}
      title={`${word} (Enter)`}
      onPointerDown={(event) => event.stopPropagation()}
      onClick={(event) => {
        event.stopPropagation()
        view.setState({ place, editing: true })
      }}
      className="absolute top-0.5 right-0.5 rounded p-0.5 text-ink-soft opacity-60 hover:bg-ground hover:opacity-100"
    >
      <ChevronDown size={12} aria-hidden />
    </button>
  )
}

function FileCell({
  file,
  name,
  clashes,
  active,
  pictures,
  ...rest
}: {
  file: FilePlan
  name: string
  clashes: boolean
  active: boolean
  pictures: FilePictures | null
} & React.ComponentProps<'div'>) {
  const { view } = useMaps()
  return (
    <div
      {...rest}
      role="rowheader"
      data-at={`${file.map}/file`}
      tabIndex={active ? 0 : -1}
      aria-label={`File ${name}`}
      onClick={(event) => event.currentTarget.focus()}
      onDoubleClick={() => view.setState({ editing: true })}
      className={`${CELL} flex items-center gap-2.5 px-3 ${active ? 'bg-accent/10' : ''}`}
    >
      <Picture picture={pictures?.whole} className="size-12 shrink-0 rounded-sm" />
      <span className="min-w-0">
        <span className="block font-semibold [overflow-wrap:anywhere]" title={name}>
          {name}
        </span>
        {clashes && (
          <span role="alert" className="block text-note">
            ■ Another file would be called the same. Put {'{map}'} into the pattern, or rename one.
          </span>
        )}
      </span>
      <EditButton place={{ map: file.map, column: 'file' }} word={`Edit ${file.map}`} />
    </div>
  )
}

function SlotCell({
  file,
  index,
  active,
  pictures,
  ...rest
}: {
  file: FilePlan
  index: 0 | 1 | 2 | 3
  active: boolean
  pictures: FilePictures | null
} & React.ComponentProps<'div'>) {
  const channels = useChannels()
  const { view } = useMaps()
  const slotPlan = file.slots[index]
  const carried: Carried = { kind: 'slot', map: file.map, slot: index }
  const { setNodeRef: setCarried, listeners } = useDraggable({
    id: `carry ${file.map} ${index}`,
    data: carried,
    disabled: !slotPlan,
  })
  const { setNodeRef, isOver } = useDroppable({
    id: `slot ${file.map} ${index}`,
    data: { map: file.map, slot: index },
  })
  const words = slotPlan ? slotInWords(slotPlan, channels) : 'empty'
  return (
    <div
      {...rest}
      role="gridcell"
      data-at={`${file.map}/${index}`}
      tabIndex={active ? 0 : -1}
      aria-label={`${file.map} ${SLOT_NAMES[index]}: ${words}`}
      title={slotPlan ? words : 'Empty. Press Enter, or drop a channel here.'}
      onClick={(event) => event.currentTarget.focus()}
      onDoubleClick={() => view.setState({ editing: true })}
      className={CELL}
    >
      <span
        ref={setNodeRef}
        className={`absolute inset-0 flex flex-col items-center justify-center ${isOver ? 'bg-accent/25' : active ? 'bg-accent/10' : ''}`}
      >
        <EditButton place={{ map: file.map, column: index }} word={`What ${file.map} ${SLOT_NAMES[index]} holds`} />
        {slotPlan ? (
          <>
            <span ref={setCarried} {...listeners} className="touch-none">
              <Picture
                picture={pictures?.slots[index]}
                className={`size-9 rounded-sm ${active ? 'ring-2 ring-accent ring-offset-1 ring-offset-panel' : ''}`}
              />
            </span>
            <span className="mt-0.5 max-w-full truncate px-0.5 text-note leading-tight text-ink-soft">
              {slotWord(slotPlan, channels)}
            </span>
            {'channel' in slotPlan && slotPlan.invert && (
              <span className="text-tiny leading-none font-semibold text-ink">inverted</span>
            )}
          </>
        ) : (
          <span
            aria-hidden
            className={`size-1.5 rounded-full bg-rule-strong ${active ? 'ring-2 ring-accent ring-offset-2 ring-offset-panel' : ''}`}
          />
        )}
      </span>
    </div>
  )
}

/** Where a channel is dropped for a file of its own. */
export function NewFileRow({ active }: { active: boolean }) {
  const channels = useChannels()
  const edit = useEditFiles()
  const actions = useActions()
  const { setNodeRef, isOver } = useDroppable({ id: 'new file', data: { map: NEW_FILE, slot: 0 } })
  return (
    <div role="row" className="p-2">
      <div
        ref={setNodeRef}
        role="gridcell"
        data-at={`${NEW_FILE}/file`}
        tabIndex={active ? 0 : -1}
        aria-label="New file"
        onClick={() => {
          actions.notify(null)
          edit('New file', (files) => addFile(files, null, channels))
        }}
        className={`flex cursor-pointer items-center gap-2 rounded-md border border-dashed border-rule-strong px-3 py-2 text-ink-soft hover:text-ink ${isOver ? 'bg-accent/25' : ''}`}
      >
        <Plus size={14} aria-hidden /> Add a file: press here, or drop a channel
      </div>
    </div>
  )
}
