import { ArrowDown, ArrowUp, Circle, Copy, Frame, ImagePlus, Square, Trash2, Type } from 'lucide-react'
import { lazy, Suspense, useCallback, useEffect, useRef, useState } from 'react'
import type { Drawing, DrawingItem } from '#core/drawing/drawing'
import { drawingIn, emptyDrawing, newItem, withDrawing } from '#core/drawing/drawing'
import { ask } from '../../session/ask'
import { useMaterial, useView } from '../../session/material'
import { ARROWS } from '../../ui/arrows'
import { Button } from '../../ui/button'
import { ColourBox } from '../../ui/colour-field'
import { Modal } from '../../ui/modal'
import { NumberBox } from '../../ui/number-box'
import { ToolButton } from '../../ui/tool-button'

const Canvas = lazy(() => import('./canvas.client'))

/** Pixels of the screen for the drawing. */
const ROOM = { width: 430, height: 380 }
const KINDS = [
  { kind: 'text', word: 'Text', icon: Type },
  { kind: 'rectangle', word: 'Rectangle', icon: Square },
  { kind: 'ellipse', word: 'Ellipse', icon: Circle },
  { kind: 'frame', word: 'Frame', icon: Frame },
] as const

/** Draws letters, figures and shapes as an image: a new one, or one that was drawn here before. */
export function DrawingEditor() {
  const { view } = useMaterial()
  const asked = useView((one) => one.drawing)
  if (!asked) return null
  return (
    <Editor key={asked.image} image={asked.image} take={asked.take} onClose={() => view.setState({ drawing: null })} />
  )
}

function Editor({ image, take, onClose }: { image: string; take(image: string): void; onClose(): void }) {
  const { addAsset, assets, actions } = useMaterial()
  const [drawing, setDrawing] = useState<Drawing | null>(null)
  const [chosen, setChosen] = useState<string | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [busy, setBusy] = useState(false)
  const makePicture = useRef<(() => Promise<Blob>) | null>(null)
  const file = useRef<HTMLInputElement>(null)
  const ready = useCallback((make: () => Promise<Blob>) => void (makePicture.current = make), [])
  useEffect(() => {
    let wanted = true
    void opened(image).then(({ found, told }) => {
      if (!wanted) return
      setDrawing(found)
      setProblem(told)
      setChosen(found.items[0]?.id ?? null)
    })
    return () => {
      wanted = false
    }
  }, [image])
  if (!drawing) return null
  const change = (next: Partial<Drawing>): void => setDrawing({ ...drawing, ...next })
  const changeItem = (item: DrawingItem): void =>
    change({ items: drawing.items.map((one) => (one.id === item.id ? item : one)) })
  const add = (item: DrawingItem): void => {
    change({ items: [...drawing.items, item] })
    setChosen(item.id)
  }
  const selected = drawing.items.find(({ id }) => id === chosen)
  const move = (by: 1 | -1): void => {
    const at = drawing.items.findIndex(({ id }) => id === chosen)
    const items = drawing.items.toSpliced(at, 1)
    items.splice(at + by, 0, drawing.items[at]!)
    change({ items })
  }
  const putIn = async (picture: File): Promise<void> => {
    const item = await pictureItem(picture, drawing)
    if (typeof item === 'string') setProblem(item)
    else add(item)
  }
  const keep = async (): Promise<void> => {
    if (!makePicture.current) return
    setBusy(true)
    setChosen(null)
    // The handles go with the next frame.
    await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))
    const png = new Uint8Array(await (await makePicture.current()).arrayBuffer())
    const old = assets.find(({ sha256 }) => `sha256:${sha256}` === image)
    const name = old?.name ?? `Drawing ${drawing.items.find((one) => one.kind === 'text')?.text ?? ''}`.trim()
    const bytes = withDrawing(png, drawing)
    const sent = await addAsset(new File([bytes], name.endsWith('.png') ? name : `${name}.png`, { type: 'image/png' }))
    setBusy(false)
    if (typeof sent === 'string') return setProblem(sent)
    take(`sha256:${sent.sha256}`)
    actions.notify(`${sent.name} is in its place.`)
    onClose()
  }
  return (
    <Modal
      open
      wide
      onOpenChange={(open) => !open && onClose()}
      title="Drawing"
      about="Letters, figures and shapes; it stays editable."
    >
      <div className="flex flex-col gap-3">
        <div className="flex flex-wrap items-center gap-1">
          {KINDS.map(({ kind, word, icon: Icon }) => (
            <Button key={kind} onClick={() => add(newItem(kind, drawing))}>
              <Icon size={13} aria-hidden /> {word}
            </Button>
          ))}
          <Button onClick={() => file.current?.click()}>
            <ImagePlus size={13} aria-hidden /> Picture or SVG
          </Button>
          <input
            ref={file}
            type="file"
            hidden
            aria-label="Picture for the drawing"
            accept=".svg,.png,.jpg,.jpeg,.webp"
            onChange={(event) => {
              const [picked] = event.target.files ?? []
              event.target.value = ''
              if (picked) void putIn(picked)
            }}
          />
        </div>
        {problem && <p role="alert">■ {problem}</p>}
        <div className="flex gap-3">
          <div
            className="grid shrink-0 place-items-center overflow-hidden rounded border border-rule bg-view"
            style={ROOM}
            role="application"
            aria-label="Drawing area; arrows move what is chosen"
            tabIndex={0}
            onKeyDown={(event) => {
              const step = event.shiftKey ? 10 : 1
              const by = ARROWS[event.key]
              if (!selected) return
              if (event.key === 'Delete') {
                change({ items: drawing.items.filter(({ id }) => id !== chosen) })
                setChosen(null)
              } else if (by) changeItem({ ...selected, x: selected.x + by[0] * step, y: selected.y - by[1] * step })
              else return
              event.preventDefault()
            }}
          >
            <Suspense fallback={null}>
              <Canvas
                drawing={drawing}
                chosen={chosen}
                room={ROOM}
                onChoose={setChosen}
                onChange={changeItem}
                onReady={ready}
              />
            </Suspense>
          </div>
          <div className="flex min-w-0 flex-1 flex-col gap-2">
            <div className="flex items-center gap-1">
              <Side label="Width" value={drawing.width} onChange={(width) => change({ width })} />
              ×
              <Side label="Height" value={drawing.height} onChange={(height) => change({ height })} />
            </div>
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="accent-accent"
                checked={drawing.ground !== null}
                onChange={(event) => change({ ground: event.target.checked ? '#e8e2d2' : null })}
              />
              Ground
              {drawing.ground !== null && (
                <ColourBox
                  label="Ground"
                  value={drawing.ground}
                  standard="#e8e2d2"
                  onDrag={(ground) => change({ ground })}
                  onDrop={() => {}}
                />
              )}
            </label>
            <ul aria-label="Things, topmost first" className="max-h-28 overflow-auto rounded border border-rule">
              {drawing.items.toReversed().map((item) => (
                <li key={item.id}>
                  <button
                    type="button"
                    aria-current={item.id === chosen}
                    onClick={() => setChosen(item.id)}
                    className="w-full truncate px-2 py-0.5 text-left hover:bg-ground aria-current:bg-ground aria-current:font-semibold"
                  >
                    {item.kind === 'text' ? `“${item.text}”` : item.kind}
                  </button>
                </li>
              ))}
            </ul>
            {selected && (
              <>
                <span className="flex">
                  <ToolButton
                    icon={ArrowUp}
                    word="Above the next"
                    disabled={drawing.items.at(-1) === selected}
                    onClick={() => move(1)}
                  />
                  <ToolButton
                    icon={ArrowDown}
                    word="Below the next"
                    disabled={drawing.items[0] === selected}
                    onClick={() => move(-1)}
                  />
                  <ToolButton
                    icon={Copy}
                    word="Duplicate it"
                    onClick={() =>
                      add({
                        ...selected,
                        id: `${selected.id}-${drawing.items.length}`,
                        x: selected.x + 16,
                        y: selected.y + 16,
                      })
                    }
                  />
                  <ToolButton
                    icon={Trash2}
                    word="Delete it"
                    onClick={() => {
                      change({ items: drawing.items.filter(({ id }) => id !== chosen) })
                      setChosen(null)
                    }}
                  />
                </span>
                <ItemSettings item={selected} onChange={changeItem} />
              </>
            )}
          </div>
        </div>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Close</Button>
          <Button variant="main" disabled={busy || drawing.items.length === 0} onClick={() => void keep()}>
            {busy ? 'Keeping …' : 'Use the drawing'}
          </Button>
        </div>
      </div>
    </Modal>
  )
}

function Side({ label, value, onChange }: { label: string; value: number; onChange(value: number): void }) {
  return (
    <NumberBox
      label={label}
      unit="px"
      whole
      min={16}
      max={4096}
      standard={value}
      value={value}
      onDrag={onChange}
      onDrop={() => {}}
      className="w-20"
    />
  )
}

/** What can be set of a thing. */
function ItemSettings({ item, onChange }: { item: DrawingItem; onChange(item: DrawingItem): void }) {
  const number = (label: string, value: number, write: (value: number) => DrawingItem, min = 1, max = 8192) => (
    <NumberBox
      label={label}
      min={min}
      max={max}
      standard={value}
      value={Math.round(value * 10) / 10}
      onDrag={(next) => onChange(write(next))}
      onDrop={() => {}}
      className="w-20"
    />
  )
  return (
    <div className="grid grid-cols-[4.5rem_1fr] items-center gap-1.5">
      {item.kind === 'text' && (
        <>
          <span className="text-ink-soft">Text</span>
          <input
            aria-label="Text"
            value={item.text}
            maxLength={500}
            onChange={(event) => onChange({ ...item, text: event.target.value })}
            className="min-w-0 rounded border border-rule-strong bg-raised px-2 py-0.5"
          />
          <span className="text-ink-soft">Size</span>
          {number('Size of the letters', item.size, (size) => ({ ...item, size }), 1, 4096)}
          <span className="text-ink-soft">Spacing</span>
          {number('Space between letters', item.spacing, (spacing) => ({ ...item, spacing }), -200, 1000)}
          <label className="col-span-2 flex items-center gap-2">
            <input
              type="checkbox"
              className="accent-accent"
              checked={item.bold}
              onChange={(event) => onChange({ ...item, bold: event.target.checked })}
            />
            Bold
          </label>
        </>
      )}
      {item.kind !== 'text' && (
        <>
          <span className="text-ink-soft">Width</span>
          {number('Width of it', item.width, (width) => ({ ...item, width }))}
          <span className="text-ink-soft">Height</span>
          {number('Height of it', item.height, (height) => ({ ...item, height }))}
        </>
      )}
      {item.kind === 'rectangle' && (
        <>
          <span className="text-ink-soft">Corners</span>
          {number('Radius of its corners', item.corner, (corner) => ({ ...item, corner }), 0)}
        </>
      )}
      {item.kind === 'frame' && (
        <>
          <span className="text-ink-soft">Line</span>
          {number('Width of its line', item.stroke, (stroke) => ({ ...item, stroke }), 1, 1024)}
        </>
      )}
      <span className="text-ink-soft">Turned</span>
      {number('Turned by degrees', item.rotation, (rotation) => ({ ...item, rotation }), -360, 360)}
      {item.kind !== 'picture' && (
        <>
          <span className="text-ink-soft">Colour</span>
          <ColourBox
            label="Colour of it"
            value={item.fill}
            standard="#1d1d1c"
            onDrag={(fill) => onChange({ ...item, fill })}
            onDrop={() => {}}
          />
        </>
      )}
    </div>
  )
}

/** The drawing in an image; an empty one where there is none, with the image in it where it is another. */
async function opened(image: string): Promise<{ found: Drawing; told: string | null }> {
  const empty = emptyDrawing()
  if (image === '') return { found: { ...empty, items: [newItem('text', empty)] }, told: null }
  try {
    const response = await ask(`/assets/${image.replace(/^sha256:/, '')}/file`)
    const found = response.ok ? drawingIn(new Uint8Array(await response.arrayBuffer())) : null
    return found
      ? { found, told: null }
      : {
          found: { ...empty, items: [newItem('text', empty)] },
          told: 'That image was not drawn here; this is a new drawing.',
        }
  } catch {
    return { found: empty, told: 'Cannot reach the server.' }
  }
}

/** A picture as a thing of a drawing, as large as fits; or why it cannot be one. */
async function pictureItem(picture: File, { width, height }: Drawing): Promise<DrawingItem | string> {
  const source = await new Promise<string>((done) => {
    const reader = new FileReader()
    reader.onload = () => done(String(reader.result))
    reader.readAsDataURL(picture)
  })
  if (source.length > 2_000_000) return 'A picture in a drawing may have 1.4 MB. Put it in as a layer of its own.'
  const image = new Image()
  const size = await new Promise<{ width: number; height: number } | null>((done) => {
    image.onload = () => done({ width: image.naturalWidth || width, height: image.naturalHeight || height })
    image.onerror = () => done(null)
    image.src = source
  })
  if (!size) return `${picture.name} cannot be read as a picture.`
  const by = Math.min(width / size.width, height / size.height)
  const { id } = newItem('rectangle', { ...emptyDrawing(), width, height })
  return {
    id,
    kind: 'picture',
    x: 0,
    y: 0,
    rotation: 0,
    fill: '#000000',
    width: Math.max(1, Math.round(size.width * by)),
    height: Math.max(1, Math.round(size.height * by)),
    source,
  }
}
