import { ImagePlus, PenLine, Upload } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useId, useRef, useState } from 'react'
import { useFileDrop } from '../../ui/use-file-drop'
import { imagePlaces } from '#core/document/edits/images'
import { useDocument, useMaterial } from '../material'
import { ImagePalette } from './image-palette'
import { useImageSearch } from './image-search'
import { IMAGE_FILES } from '../send-file'

const hashOf = (value: string): string => value.replace(/^sha256:/, '')

/** An image of the library: chosen, sent in by button, or dropped here. */
export function ImageField({
  label,
  value,
  onChange,
}: {
  label: string
  value: string
  onChange(value: string): void
}) {
  const { assets, addAsset, actions } = useMaterial()
  const input = useRef<HTMLInputElement>(null)
  const [open, setOpen] = useState(false)
  const [state, setState] = useState<{ busy: string } | { problem: string } | null>(null)
  const [everywhere, setEverywhere] = useState(false)
  const selected = assets.find((asset) => asset.sha256 === hashOf(value))
  const choose = (image: string): void => {
    setOpen(false)
    if (image === value) return
    if (everywhere && image !== '') actions.replaceImage(value, image)
    else onChange(image)
  }
  const importImage = async (file: File | undefined): Promise<void> => {
    if (!file) return
    setState({ busy: file.name })
    const sent = await addAsset(file)
    if (typeof sent === 'string') return setState({ problem: sent })
    setState(null)
    choose(`sha256:${sent.sha256}`)
  }
  const { over, handlers } = useFileDrop(([file]) => void importImage(file!))
  return (
    <div
      className={`flex min-w-0 flex-wrap items-center gap-2 rounded ${over ? 'outline-2 outline-accent' : ''}`}
      {...handlers}
    >
      <Popover.Root
        open={open}
        onOpenChange={(open) => {
          setOpen(open)
          setEverywhere(false)
        }}
      >
        <Popover.Trigger
          aria-label={`${label}: ${selected?.name ?? 'none chosen'}`}
          className="flex max-w-full items-center gap-2 rounded border border-rule-strong bg-raised p-1 pr-2"
        >
          {selected ? (
            <img src={`/assets/${selected.sha256}/thumbnail.png`} alt="" className="size-8 bg-view object-cover" />
          ) : (
            <span className="grid size-8 place-items-center border border-dashed border-rule-strong">
              <ImagePlus size={14} aria-hidden />
            </span>
          )}
          <span className="truncate">
            {selected?.name ?? (value === '' ? 'Choose or drop an image' : 'Not in the library')}
          </span>
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            sideOffset={4}
            collisionPadding={8}
            aria-label="Images"
            className="z-40 w-72 rounded-lg border border-rule-strong bg-panel p-3 shadow-lg"
          >
            <ImageChoices value={value} everywhere={everywhere} onEverywhere={setEverywhere} onChoose={choose} />
            <div className="mt-2 flex gap-3">
              <button
                type="button"
                className="flex items-center gap-1 underline"
                onClick={() => input.current?.click()}
              >
                <Upload size={12} aria-hidden /> Add a file
              </button>
              <button
                type="button"
                className="flex items-center gap-1 underline"
                onClick={() => {
                  setOpen(false)
                  actions.setView({ drawing: { image: value, take: choose } })
                }}
              >
                <PenLine size={12} aria-hidden /> {value === '' ? 'Draw one' : 'Edit as a drawing'}
              </button>
              {value !== '' && (
                <button
                  type="button"
                  className="underline"
                  onClick={() => {
                    choose('')
                  }}
                >
                  Remove
                </button>
              )}
            </div>
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      <input
        ref={input}
        type="file"
        hidden
        aria-label={`${label}: file`}
        accept={IMAGE_FILES}
        onChange={(event) => void importImage(event.target.files?.[0])}
      />
      {selected && <ImagePalette sha256={selected.sha256} name={selected.name} />}
      {state && 'busy' in state && <span role="status">Reading {state.busy} …</span>}
      {state && 'problem' in state && <span role="alert">■ {state.problem}</span>}
    </div>
  )
}

interface ImageChoicesProps {
  readonly value: string
  readonly everywhere: boolean
  onEverywhere(everywhere: boolean): void
  onChoose(image: string): void
}

/** The library, and whether what is chosen goes wherever the present image stands. */
function ImageChoices({ value, everywhere, onEverywhere, onChoose }: ImageChoicesProps) {
  const { assets } = useMaterial()
  const document = useDocument()
  const { field, shown, none } = useImageSearch(assets)
  const box = useId()
  const others = value === '' ? 0 : imagePlaces(document, value) - 1
  return (
    <>
      {field && <div className="mb-2">{field}</div>}
      <ul className="grid max-h-56 grid-cols-4 gap-2 overflow-auto">
        {shown.map((asset) => (
          <li key={asset.sha256}>
            <button
              type="button"
              title={`${asset.name}, ${asset.width} × ${asset.height}`}
              aria-label={asset.name}
              onClick={() => onChoose(`sha256:${asset.sha256}`)}
              className={`w-full rounded border ${asset.sha256 === hashOf(value) ? 'border-accent' : 'border-rule'}`}
            >
              <img
                src={`/assets/${asset.sha256}/thumbnail.png`}
                alt=""
                className="aspect-square w-full bg-view object-cover"
              />
            </button>
          </li>
        ))}
      </ul>
      {none}
      {assets.length === 0 && <p className="text-ink-soft">There are no images in the library yet.</p>}
      {others > 0 && (
        <label htmlFor={box} className="mt-2 flex items-center gap-2">
          <input
            id={box}
            type="checkbox"
            checked={everywhere}
            onChange={(event) => onEverywhere(event.target.checked)}
          />
          Replace it in {others === 1 ? 'the other place' : `the ${others} other places`} too
        </label>
      )}
    </>
  )
}
