import { ImagePlus, Upload } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useRef, useState } from 'react'
import { useFileDrop } from '../../ui/use-file-drop'
import { useMaterial } from '../material'

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
  const { assets, addAsset } = useMaterial()
  const input = useRef<HTMLInputElement>(null)
  const [open, setOpen] = useState(false)
  const [state, setState] = useState<{ busy: string } | { problem: string } | null>(null)
  const selected = assets.find((asset) => asset.sha256 === hashOf(value))
  const importImage = async (file: File | undefined): Promise<void> => {
    if (!file) return
    setState({ busy: file.name })
    const sent = await addAsset(file)
    if (typeof sent === 'string') return setState({ problem: sent })
    setState(null)
    setOpen(false)
    onChange(`sha256:${sent.sha256}`)
  }
  const { over, handlers } = useFileDrop(([file]) => void importImage(file!))
  return (
    <div
      className={`flex min-w-0 flex-wrap items-center gap-2 rounded ${over ? 'outline-2 outline-accent' : ''}`}
      {...handlers}
    >
      <Popover.Root open={open} onOpenChange={setOpen}>
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
            <ul className="grid max-h-56 grid-cols-4 gap-2 overflow-auto">
              {assets.map((asset) => (
                <li key={asset.sha256}>
                  <button
                    type="button"
                    title={`${asset.name}, ${asset.width} × ${asset.height}`}
                    aria-label={asset.name}
                    onClick={() => {
                      onChange(`sha256:${asset.sha256}`)
                      setOpen(false)
                    }}
                    className={`w-full rounded border ${asset === selected ? 'border-accent' : 'border-rule'}`}
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
            {assets.length === 0 && <p className="text-ink-soft">There are no images in the library yet.</p>}
            <div className="mt-2 flex gap-3">
              <button
                type="button"
                className="flex items-center gap-1 underline"
                onClick={() => input.current?.click()}
              >
                <Upload size={12} aria-hidden /> Add a file
              </button>
              {value !== '' && (
                <button
                  type="button"
                  className="underline"
                  onClick={() => {
                    onChange('')
                    setOpen(false)
                  }}
                >
                  Take it out
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
        accept=".png,.jpg,.jpeg,.webp,.exr,.hdr,.tga"
        onChange={(event) => void importImage(event.target.files?.[0])}
      />
      {state && 'busy' in state && <span role="status">Reading {state.busy} …</span>}
      {state && 'problem' in state && <span role="alert">■ {state.problem}</span>}
    </div>
  )
}
