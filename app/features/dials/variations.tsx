import { Dices, Star } from 'lucide-react'
import { produce } from 'immer'
import { useEffect, useMemo, useState } from 'react'
import type { MaterialDocument } from '#core/document/document'
import { randomiseDials, savePreset } from '#core/document/edits/presets'
import { hash32, hashInto, unitFloat } from '#core/random'
import type { DisplayBytes } from '#core/preview/display'
import { Button } from '../../ui/button'
import { Modal } from '../../ui/modal'
import { NumberField } from '../../ui/number-field'
import { Picture } from '../../ui/picture'
import { useActions, useDocument, useMaterial } from '../../session/material'

/** How many are seen side by side: the material as it is, and others. */
const SHOWN = 9
const WIDTH = 160

/** Nine materials that differ in chosen dials: one is taken, any are kept as presets. */
export function Variations({ onClose }: { onClose: () => void }) {
  const actions = useActions()
  const document = useDocument()
  const [before] = useState(document)
  const rollable = useMemo(
    () =>
      before.dials.filter(
        ({ kind, min, max }) =>
          !['colour', 'image'].includes(kind) &&
          (!['number', 'whole'].includes(kind) || (min !== undefined && max !== undefined)),
      ),
    [before],
  )
  const [chosen, setChosen] = useState<ReadonlySet<string>>(() => new Set(rollable.map(({ id }) => id)))
  const [reach, setReach] = useState(0.4)
  const [roll, setRoll] = useState(1)
  const [taken, setTaken] = useState<number | null>(null)
  const [kept, setKept] = useState<readonly number[]>([])
  const variations = useMemo(
    () => Array.from({ length: SHOWN }, (_, i) => (i === 0 ? before : varied(before, chosen, reach, roll * SHOWN + i))),
    [before, chosen, reach, roll],
  )
  const pictures = usePictures(variations)
  const keep = (i: number): void => {
    const name = `Variation ${Object.keys(document.presets).length + 1}`
    actions.edit(`Keep ${name}`, (draft) => {
      const now = draft.dials.map(({ value }) => value)
      draft.dials.forEach((dial, d) => (dial.value = variations[i]!.dials[d]!.value))
      savePreset(draft, name)
      draft.dials.forEach((dial, d) => (dial.value = now[d]!))
    })
    setKept([...kept, i])
  }
  const take = (): void => {
    if (taken !== null)
      actions.edit('Take a variation', (draft) =>
        draft.dials.forEach((dial, d) => (dial.value = variations[taken]!.dials[d]!.value)),
      )
    onClose()
  }
  return (
    <Modal
      open
      wide
      onOpenChange={(open) => !open && onClose()}
      title="Variations"
      about="The first is as it is now; the others have other values of the dials that are ticked."
    >
      <div className="flex gap-4">
        <div role="radiogroup" aria-label="Variations" className="grid flex-1 grid-cols-3 gap-2">
          {variations.map((_, i) => (
            <div key={i} className="relative">
              <button
                type="button"
                role="radio"
                aria-checked={taken === i}
                aria-label={i === 0 ? 'As it is now' : `Variation ${i}`}
                onClick={() => setTaken(i)}
                onDoubleClick={take}
                className="block w-full rounded border-2 border-transparent p-0.5 aria-checked:border-accent"
              >
                <Picture picture={pictures[i]} className="aspect-square w-full rounded-sm" />
              </button>
              {i > 0 && (
                <Button
                  className="absolute right-1.5 bottom-1.5 px-1.5 py-0.5"
                  aria-label={
                    kept.includes(i) ? `Variation ${i} is kept as a preset` : `Keep variation ${i} as a preset`
                  }
                  title={kept.includes(i) ? 'Kept as a preset' : 'Keep as a preset'}
                  disabled={kept.includes(i)}
                  onClick={() => keep(i)}
                >
                  <Star size={12} aria-hidden />
                </Button>
              )}
            </div>
          ))}
        </div>
        <div className="flex w-72 flex-col gap-2">
          <NumberField
            label="Reach"
            help="How far dials go from where they stand: 1 is their whole range."
            min={0.05}
            max={1}
            standard={0.4}
            value={reach}
            onDrag={(next) => (setReach(next), setKept([]))}
            onDrop={() => {}}
          />
          <fieldset className="flex max-h-72 flex-col gap-1 overflow-auto">
            <legend className="text-ink-soft">Dials that vary</legend>
            {rollable.map(({ id, label }) => (
              <label key={id} className="flex items-center gap-2">
                <input
                  type="checkbox"
                  className="accent-accent"
                  checked={chosen.has(id)}
                  onChange={(event) => {
                    const next = new Set(chosen)
                    if (event.target.checked) next.add(id)
                    else next.delete(id)
                    setChosen(next)
                    setKept([])
                  }}
                />
                <span className="truncate">{label}</span>
              </label>
            ))}
          </fieldset>
          <span className="flex-1" />
          <Button
            onClick={() => {
              setRoll(roll + 1)
              setTaken(null)
              setKept([])
            }}
          >
            <Dices size={13} aria-hidden /> Roll again
          </Button>
          <Button variant="main" disabled={taken === null} onClick={take}>
            Take it
          </Button>
        </div>
      </div>
    </Modal>
  )
}

/** A document with chosen dials moved at random, by `reach` of the way to where they would be. */
function varied(
  document: MaterialDocument,
  chosen: ReadonlySet<string>,
  reach: number,
  seed: number,
): MaterialDocument {
  let drawn = 0
  const random = (): number => unitFloat(hashInto(hash32(seed), drawn++))
  const rolled = produce(document, (draft) => randomiseDials(draft, random))
  return produce(document, (draft) =>
    draft.dials.forEach((dial, d) => {
      const { value } = rolled.dials[d]!
      if (!chosen.has(dial.id)) return
      dial.value =
        typeof value === 'number' && typeof dial.value === 'number' && dial.kind === 'number'
          ? dial.value + (value - dial.value) * reach
          : value
    }),
  )
}

/** Pictures of documents, one after the other; what was asked for before is passed by. */
function usePictures(documents: readonly MaterialDocument[]): readonly (DisplayBytes | undefined)[] {
  const { evaluation } = useMaterial()
  const [pictures, setPictures] = useState<readonly (DisplayBytes | undefined)[]>([])
  useEffect(() => {
    let wanted = true
    void (async () => {
      const made: (DisplayBytes | undefined)[] = []
      for (const document of documents) {
        if (!wanted) return
        made.push((await evaluation.picture(document, WIDTH).catch(() => null)) ?? undefined)
        if (wanted) setPictures([...made])
      }
    })()
    return () => {
      wanted = false
    }
  }, [documents, evaluation])
  return pictures
}
