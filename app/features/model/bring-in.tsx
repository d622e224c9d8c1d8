import { ImageDown } from 'lucide-react'
import { useState } from 'react'
import { bakerNamed } from '#core/mesh/mesh-data'
import type { BroughtInAs } from '#core/mesh/brought-in'
import { usualMeaning } from '#core/mesh/brought-in'
import { useImageSearch } from '../../session/parts/image-search'
import { Button } from '../../ui/button'
import { Modal } from '../../ui/modal'
import { NumberField } from '../../ui/number-field'
import { optionsOfModel, tilesOfPart, useModel } from './model-context'

/** Takes an image of the project for the chosen cell, in place of a bake. */
export function BringIn() {
  const { model, images, view, send } = useModel()
  const [open, setOpen] = useState(false)
  const [chosen, setChosen] = useState<string | null>(null)
  const baker = bakerNamed(view.kind!)
  const usual = usualMeaning(baker, { options: optionsOfModel(model), box: model.summary.box })
  const [meaning, setMeaning] = useState<BroughtInAs>(usual)
  const tiles = tilesOfPart(model, view.part)
  const [udim, setUdim] = useState(tiles[0]!)
  const { field, shown, none } = useImageSearch(images)
  const [from, to] = meaning.range
  const bound = (label: string, value: number, standard: number, onDrag: (value: number) => void) => (
    <NumberField
      label={label}
      min={-1e6}
      max={1e6}
      softRange={[-1, 1]}
      standard={standard}
      value={value}
      onDrag={onDrag}
      onDrop={() => {}}
    />
  )
  return (
    <>
      <Button
        variant="quiet"
        onClick={() => {
          setMeaning(usual)
          setChosen(null)
          setOpen(true)
        }}
      >
        <ImageDown size={14} aria-hidden /> Bring in
      </Button>
      <Modal
        open={open}
        onOpenChange={setOpen}
        wide
        title={`Bring in an image as ${baker.title.toLowerCase()}`}
        about="It stands for the bake until it is baked again. Images come from the project’s page."
      >
        <div className="mb-2 flex gap-4">{field}</div>
        <ul aria-label="Images" className="grid max-h-56 grid-cols-6 gap-2 overflow-auto">
          {shown.map(({ sha256, name }) => (
            <li key={sha256}>
              <button
                type="button"
                aria-pressed={chosen === sha256}
                onClick={() => setChosen(sha256)}
                className="block w-full rounded border border-rule p-1 aria-pressed:outline-2 aria-pressed:outline-accent"
              >
                <img src={`/assets/${sha256}/thumbnail.png`} alt="" className="h-16 w-full bg-view object-contain" />
                <span className="block truncate text-note" title={name}>
                  {name}
                </span>
              </button>
            </li>
          ))}
        </ul>
        {none}
        <div className="mt-3 grid gap-2">
          {baker.type === 'grey' &&
            bound('Black is', from, usual.range[0], (value) => setMeaning({ ...meaning, range: [value, to] }))}
          {baker.type === 'grey' &&
            bound('White is', to, usual.range[1], (value) => setMeaning({ ...meaning, range: [from, value] }))}
          {(baker.type === 'grey' || (baker.type === 'vector' && baker.shown)) && (
            <p className="text-note text-ink-soft">
              {baker.type === 'vector' && 'Black and white are the corners of the box around the model. '}
              Float images hold the numbers themselves. {baker.help}
            </p>
          )}
          {baker.type === 'normal' && (
            <Check
              word="Green points down"
              on={meaning.flipY}
              onChange={(flipY) => setMeaning({ ...meaning, flipY })}
            />
          )}
          {baker.type === 'vector' && !baker.shown && (
            <Check
              word="Its colours are sRGB-encoded"
              on={meaning.encoded}
              onChange={(encoded) => setMeaning({ ...meaning, encoded })}
            />
          )}
          {baker.type === 'id' && (
            <NumberField
              label="Tolerance"
              help="Colours nearer to each other than so many steps of 8 bits have one number."
              whole
              min={0}
              max={128}
              standard={8}
              value={meaning.tolerance}
              onDrag={(tolerance) => setMeaning({ ...meaning, tolerance })}
              onDrop={() => {}}
            />
          )}
          {tiles.length > 1 && (
            <label className="flex items-center gap-2">
              <span className="text-ink-soft">Tile</span>
              <select
                value={udim}
                onChange={(event) => setUdim(Number(event.target.value))}
                className="rounded border border-rule-strong bg-raised px-1.5 py-0.5"
              >
                {tiles.map((tile) => (
                  <option key={tile}>{tile}</option>
                ))}
              </select>
            </label>
          )}
        </div>
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={() => setOpen(false)}>Close</Button>
          <Button
            variant="main"
            disabled={chosen === null}
            onClick={() => {
              send({ intent: 'bring-in', part: view.part, kind: view.kind!, udim, image: chosen!, meaning })
              setOpen(false)
            }}
          >
            Bring it in
          </Button>
        </div>
      </Modal>
    </>
  )
}

function Check({ word, on, onChange }: { word: string; on: boolean; onChange(on: boolean): void }) {
  return (
    <label className="flex items-center gap-2">
      <input
        type="checkbox"
        className="accent-accent"
        checked={on}
        onChange={(event) => onChange(event.target.checked)}
      />
      {word}
    </label>
  )
}
