import { Hammer } from 'lucide-react'
import { useState } from 'react'
import type { ProjectPage } from '../../contracts/project'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { Modal } from '../../ui/modal'
import { counted } from '../../ui/words'

/** The packing that most engines take. */
const USUAL = 'occlusion-rough-metal-y-up'
const SIZES = ['512', '1024', '2048', '4096', '8192']

/** Makes maps of several materials at once: which, by which packing, how large. */
export function MakeMaps({
  documents,
  packings,
  onMake,
}: {
  documents: ProjectPage['documents']
  packings: readonly { readonly name: string; readonly title: string }[]
  onMake(fields: Record<string, string>): void
}) {
  const [open, setOpen] = useState(false)
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set())
  const [packing, setPacking] = useState((packings.find(({ name }) => name === USUAL) ?? packings[0]!).name)
  const [width, setWidth] = useState('1024')
  const [dither, setDither] = useState(true)
  const chosen = documents.filter(({ id }) => !left.has(id))
  const toggle = (id: string): void => {
    const next = new Set(left)
    if (!next.delete(id)) next.add(id)
    setLeft(next)
  }
  return (
    <>
      <Button
        onClick={() => {
          setLeft(new Set())
          setOpen(true)
        }}
      >
        <Hammer size={14} aria-hidden /> Make maps
      </Button>
      <Modal
        open={open}
        onOpenChange={setOpen}
        title="Make maps of several materials"
        about="Each is made from what is saved now. Maps that would hold the same as before are kept."
      >
        <form
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault()
            onMake({
              intent: 'make-maps',
              documents: chosen.map(({ id }) => id).join(','),
              packing,
              width,
              dither: dither ? 'yes' : 'no',
            })
            setOpen(false)
          }}
        >
          <ul aria-label="Materials to make" className="max-h-56 overflow-auto rounded border border-rule">
            {documents.map(({ id, name }) => (
              <li key={id}>
                <label className="flex items-center gap-2 px-2 py-1 hover:bg-ground">
                  <input
                    type="checkbox"
                    className="accent-accent"
                    checked={!left.has(id)}
                    onChange={() => toggle(id)}
                  />
                  <span className="truncate">{name}</span>
                </label>
              </li>
            ))}
          </ul>
          <label className="flex items-center gap-2">
            <span className="w-20 text-ink-soft">Packing</span>
            <Choice
              label="Packing"
              value={packing}
              options={packings.map(({ name, title }) => ({ value: name, word: title }))}
              onChange={setPacking}
              className="flex-1"
            />
          </label>
          <span className="flex items-center gap-2">
            <span className="w-20 text-ink-soft">Size</span>
            <Choice
              label="Size"
              value={width}
              options={SIZES.map((value) => ({ value, word: `${value} wide` }))}
              onChange={setWidth}
            />
          </span>
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="accent-accent"
              checked={dither}
              onChange={(event) => setDither(event.target.checked)}
            />
            Dither 8-bit files
          </label>
          <div className="flex justify-end gap-2">
            <Button onClick={() => setOpen(false)}>Close</Button>
            <Button variant="main" type="submit" disabled={chosen.length === 0}>
              Make {counted(chosen.length, 'set')} of maps
            </Button>
          </div>
        </form>
      </Modal>
    </>
  )
}
