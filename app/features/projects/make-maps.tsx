import { useRef, useState } from 'react'
import { useFetcher } from 'react-router'
import { Plus } from 'lucide-react'
import { CHANNELS } from '#core/graph/channels'
import { engineMemory } from '#core/maps/engine-memory'
import { filesOf } from '#core/maps/packing'
import { Button } from '../../ui/button'
import { Modal } from '../../ui/modal'
import { bytesInWords, counted } from '../../ui/words'
import type { PackingChoice } from './project-view'

const SIZES = [256, 512, 1024, 2048, 4096, 8192]

/** Asks for packing, size and dither. */
export function MakeMaps({
  document,
  packings,
  onClose,
  onMake,
}: {
  document: { name: string; metres: readonly number[] }
  packings: readonly PackingChoice[]
  onClose(): void
  onMake(fields: Record<string, string>): void
}) {
  const [packing, setPacking] = useState('occlusion-rough-metal-y-up')
  const fetcher = useFetcher<{ packing?: string; problem?: string }>()
  const file = useRef<HTMLInputElement>(null)
  const chosen = packings.some(({ name }) => name === packing) ? packing : packings[0]!.name
  const add = async (files: FileList | null): Promise<void> => {
    if (!files?.[0]) return
    const json = await files[0].text()
    await fetcher.submit({ intent: 'add-packing', json }, { method: 'post' })
  }
  const [width, setWidth] = useState(1024)
  const ratio = document.metres[1]! / document.metres[0]!
  return (
    <Modal open onOpenChange={(open) => !open && onClose()} title={`Make maps of “${document.name}”`}>
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault()
          onMake(Object.fromEntries(new FormData(event.currentTarget)) as Record<string, string>)
          onClose()
        }}
      >
        <fieldset className="flex flex-col gap-2">
          <legend className="mb-1 text-ink-soft">Packing</legend>
          {packings.map((choice) => (
            <label key={choice.name} className="flex items-start gap-2">
              <input
                type="radio"
                name="packing"
                value={choice.name}
                checked={chosen === choice.name}
                onChange={() => setPacking(choice.name)}
                className="mt-0.5 accent-accent"
              />
              <span>
                {choice.title}
                <span className="block text-ink-soft">{choice.summary}</span>
              </span>
            </label>
          ))}
          <span className="flex items-center gap-3">
            <Button look="quiet" onClick={() => file.current?.click()}>
              <Plus size={14} aria-hidden /> Add a packing from a file
            </Button>
            <input
              ref={file}
              type="file"
              hidden
              accept=".json"
              aria-label="Packing file"
              onChange={(event) => void add(event.target.files)}
            />
          </span>
          {fetcher.data?.problem && <p role="alert">■ {fetcher.data.problem}</p>}
        </fieldset>
        <label className="flex flex-col gap-1">
          <span className="text-ink-soft">Size</span>
          <select
            name="width"
            value={width}
            onChange={(event) => setWidth(Number(event.target.value))}
            className="rounded border border-rule-strong bg-raised px-2 py-1 font-mono"
          >
            {SIZES.map((size) => (
              <option key={size} value={size}>
                {size} × {Math.round(size * ratio)}
              </option>
            ))}
          </select>
        </label>
        <Takes
          packing={packings.find(({ name }) => name === chosen)!}
          width={width}
          height={Math.round(width * ratio)}
        />
        <label className="flex items-center gap-2">
          <input type="checkbox" name="dither" defaultChecked className="accent-accent" />
          Dither 8-bit files, so that soft slopes do not band
        </label>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Close</Button>
          <Button look="main" type="submit">
            Make maps
          </Button>
        </div>
      </form>
    </Modal>
  )
}

/** What the set will take in a game engine, with its mips. */
function Takes({ packing, width, height }: { packing: PackingChoice; width: number; height: number }) {
  // A packing may name channels of one material's own; they take what any grey takes.
  const files = [...packing.files, ...filesOf({ files: [], everyChannel: packing.everyChannel }, CHANNELS)]
  const each = files.map((file) => engineMemory(file, width, height))
  const sum = (of: (one: (typeof each)[number]) => number): string =>
    bytesInWords(each.reduce((total, one) => total + of(one), 0))
  return (
    <p role="status" aria-label="Memory in the engine" className="text-ink-soft">
      {counted(files.length, 'file')}. In an engine, with mips: {sum(({ plain }) => plain)}, or{' '}
      {sum(({ plain, blocks }) => blocks ?? plain)} compressed into blocks.
    </p>
  )
}
