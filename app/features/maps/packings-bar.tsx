import { Check, MoreHorizontal, Plus } from 'lucide-react'
import { useRef, useState } from 'react'
import { cutText } from '#core/cut-text'
import { addFile } from '#core/texture/edit-packing'
import type { FilePlan } from '#core/texture/packing'
import { NAME_FIELDS } from '#core/texture/packing'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { saveFile } from '../../ui/save-file'
import { Menu, MenuItem } from '../../ui/menu'
import { NameDialog } from '../../ui/name-dialog'
import { Tip } from '../../ui/tip'
import { counted } from '../../ui/words'
import { FramesRow, STANDARD_FRAMES } from './frames-row'
import { useChannels, useMaps, usePackings } from './maps'
import { useNames } from './names'
import { useEditFiles } from './files'

const OWN = 'Of this project'
const SAVE_WORDS = {
  saved: '● saved',
  saving: '◌ saving',
  away: '▲ kept here, the server is away',
  refused: '■ not saved',
}

/** Which packing, what can be done with it, and how its files are named. */
export function PackingsBar({ files }: { files: readonly FilePlan[] }) {
  const { packings } = useMaps()
  const channels = useChannels()
  const edit = useEditFiles()
  const list = usePackings((state) => state.list)
  const packing = usePackings((state) => state.packing)
  const save = usePackings((state) => state.save)
  const notice = usePackings((state) => state.notice)
  const shipped = packings.isShipped()
  const known = list.some((one) => one.packing.name === packing.name)
  return (
    <>
      <header className="flex h-10 shrink-0 items-center gap-3 border-b border-rule px-3">
        <h2 className="font-semibold">Files</h2>
        <Choice
          label="Packing"
          value={packing.name}
          options={[
            ...list.map(({ packing: one, revision }) => ({
              value: one.name,
              word: one.name === packing.name ? packing.title : one.title,
              group: revision === null ? 'Shipped' : OWN,
            })),
            ...(known ? [] : [{ value: packing.name, word: packing.title, group: OWN }]),
          ]}
          onChange={packings.choose}
          className="max-w-72 py-1"
        />
        <span
          role="status"
          aria-label="Packing saved"
          title={`${counted(files.length, 'file')}, ${shipped ? 'as shipped' : SAVE_WORDS[save]}`}
          className="min-w-0 flex-1 truncate font-mono text-note text-ink-soft"
        >
          {counted(files.length, 'file')}, {shipped ? 'as shipped' : SAVE_WORDS[save]}
        </span>
        <PackingMenu shipped={shipped} />
        <Button onClick={() => edit('New file', (now) => addFile(now, null, channels))}>
          <Plus size={14} aria-hidden /> Add file
        </Button>
      </header>
      <Pattern />
      <FramesRow />
      {notice && (
        <p role="status" aria-label="About the packing" className="border-b border-rule bg-raised px-3 py-1">
          {notice}
        </p>
      )}
    </>
  )
}

function PackingMenu({ shipped }: { shipped: boolean }) {
  const { packings } = useMaps()
  const packing = usePackings((state) => state.packing)
  const file = useRef<HTMLInputElement>(null)
  const [renaming, setRenaming] = useState(false)
  return (
    <>
      <Menu
        trigger={
          <Button aria-label="What to do with the packing">
            <MoreHorizontal size={14} aria-hidden /> Packing
          </Button>
        }
      >
        {!shipped && <MenuItem onSelect={() => setRenaming(true)}>Rename …</MenuItem>}
        <MenuItem onSelect={packings.duplicate}>Duplicate</MenuItem>
        <MenuItem
          onSelect={() => saveFile(`${packing.name}.json`, `${JSON.stringify(packing, null, 2)}\n`, 'application/json')}
        >
          Share as a JSON file
        </MenuItem>
        <MenuItem onSelect={() => file.current?.click()}>Add from a JSON file …</MenuItem>
        <MenuItem
          onSelect={() =>
            packings.edit(packing.bleeds ? 'Colours as they are' : 'Colours grow under transparent texels', (now) => ({
              ...now,
              bleeds: now.bleeds ? undefined : true,
            }))
          }
        >
          <span className="inline-block w-5">{packing.bleeds && <Check size={13} aria-label="on" />}</span>
          Colours grow outward under what is transparent
        </MenuItem>
        {!packing.frames && (
          <MenuItem onSelect={() => packings.edit('Frames', (now) => ({ ...now, frames: STANDARD_FRAMES }))}>
            Frames: a sheet of pictures while a dial turns …
          </MenuItem>
        )}
        {!shipped && <MenuItem onSelect={() => void packings.remove()}>Delete</MenuItem>}
      </Menu>
      <input
        ref={file}
        type="file"
        hidden
        accept=".json"
        aria-label="Packing file"
        onChange={(event) => {
          const [given] = event.target.files ?? []
          event.target.value = ''
          if (given) void given.text().then(packings.add)
        }}
      />
      {renaming && (
        <NameDialog
          title="Rename the packing"
          name={packing.title}
          action="Rename"
          onName={(title) => packings.edit('Rename the packing', (now) => ({ ...now, title: cutText(title, 100) }))}
          onClose={() => setRenaming(false)}
        />
      )}
    </>
  )
}

/** How files are named, with what would come of it beside every file. A pattern that is empty for a moment is not yet one. */
function Pattern() {
  const { packings } = useMaps()
  const pattern = usePackings((state) => state.packing.pattern)
  const { problem } = useNames()
  const [emptied, setEmptied] = useState(false)
  const input = useRef<HTMLInputElement>(null)
  const fields = Object.keys(NAME_FIELDS) as (keyof typeof NAME_FIELDS)[]
  const set = (next: string, moving = false): void => {
    setEmptied(next.trim() === '')
    if (next.trim() !== '')
      packings.edit('Name pattern', (packing) => ({ ...packing, pattern: cutText(next, 200) }), moving)
  }
  /** Puts a field in where the caret is, in place of what is marked. */
  const put = (field: string): void => {
    const shown = emptied ? '' : pattern
    const [from, to] = [input.current?.selectionStart ?? shown.length, input.current?.selectionEnd ?? shown.length]
    const joint = from > 0 && shown[from - 1] === '}' ? '_' : ''
    const added = `${joint}{${field}}`
    set(`${shown.slice(0, from)}${added}${shown.slice(to)}`)
    requestAnimationFrame(() => {
      input.current?.focus()
      input.current?.setSelectionRange(from + added.length, from + added.length)
    })
  }
  const told = emptied ? 'An empty pattern names no file; the last one still holds.' : problem
  return (
    <div className="flex shrink-0 flex-wrap items-center gap-x-2 gap-y-1 border-b border-rule px-3 py-1.5">
      <label className="flex items-center gap-2">
        <span className="text-ink-soft">Names</span>
        <input
          ref={input}
          aria-label="Name pattern"
          aria-invalid={told !== null}
          value={emptied ? '' : pattern}
          spellCheck={false}
          onChange={(event) => set(event.target.value, true)}
          onBlur={() => packings.rest()}
          className="w-60 rounded border border-rule-strong bg-raised px-1.5 py-0.5 font-mono text-code"
        />
      </label>
      <span className="flex flex-wrap gap-1">
        {fields.map((field) => (
          <Tip key={field} text={`Adds ${NAME_FIELDS[field]}`}>
            <button
              type="button"
              onPointerDown={(event) => event.preventDefault()}
              onClick={() => put(field)}
              className="rounded border border-rule px-1 font-mono text-note text-ink-soft hover:border-rule-strong hover:text-ink"
            >
              {`{${field}}`}
            </button>
          </Tip>
        ))}
      </span>
      {told && (
        <span role="alert" className="w-full">
          ■ {told}
        </span>
      )}
    </div>
  )
}
