import { useState } from 'react'
import { bakerNamed } from '#core/mesh/mesh-data'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { counted } from '../../ui/words'
import { toggled, useModel } from './model-context'
import { useIds } from './use-ids'

/** Kinds of ID that tell places of one part apart, and what one of them is. */
const NOUNS = { 'piece-id': 'piece', 'island-id': 'island', 'colour-id': 'colour' } as const
const KINDS = Object.keys(NOUNS) as (keyof typeof NOUNS)[]
/** Most numbers that are listed one by one. */
const MAX_LISTED = 96

/** Picks IDs of a part for a material: from the list, or by pressing them on the model. */
export function IdPicker() {
  const { model, placed, view, setView, send } = useModel()
  const picks = view.picks!
  const all = useIds(picks.part, picks.kind)
  const [material, setMaterial] = useState(placed.materials[0]?.id ?? '')
  const { name } = model.summary.parts[picks.part]!
  const kinds = KINDS.filter((kind) => kind !== 'colour-id' || model.summary.colours)
  const put = (): void => {
    send({ intent: 'place', part: picks.part, ids: { kind: picks.kind, numbers: [...picks.numbers] }, material })
    setView({ picks: null })
  }
  return (
    <li
      aria-label={`IDs of ${name}`}
      className="grid gap-2 rounded-md border border-rule-strong bg-raised p-2"
      onKeyDown={(event) => event.key === 'Escape' && setView({ picks: null })}
    >
      <span className="flex flex-wrap items-center gap-2">
        <Choice
          label="What tells places apart"
          value={picks.kind}
          options={kinds.map((kind) => ({ value: kind, word: bakerNamed(kind).title }))}
          onChange={(kind) => setView({ picks: { ...picks, kind: kind as keyof typeof NOUNS, numbers: [] } })}
        />
        <span className="text-ink-soft">Press them on the model, or here:</span>
      </span>
      <span role="group" aria-label="IDs" className="flex flex-wrap gap-1">
        {all?.slice(0, MAX_LISTED).map((number) => (
          <button
            key={number}
            type="button"
            aria-pressed={picks.numbers.includes(number)}
            onClick={() => setView({ picks: { ...picks, numbers: toggled(picks.numbers, number) } })}
            className="h-6 min-w-6 rounded border border-rule-strong px-1 font-mono text-note aria-pressed:bg-ink aria-pressed:text-ground"
          >
            {number}
          </button>
        ))}
        {all && all.length > MAX_LISTED && (
          <span className="text-ink-soft">… {all.length - MAX_LISTED} more, on the model</span>
        )}
      </span>
      <span className="flex flex-wrap items-center gap-2">
        <Choice
          label="Material on them"
          value={material}
          options={
            placed.materials.length === 0
              ? [{ value: '', word: 'no material' }]
              : placed.materials.map(({ id, name: word }) => ({ value: id, word }))
          }
          onChange={setMaterial}
        />
        <Button variant="main" disabled={picks.numbers.length === 0 || material === ''} onClick={put}>
          Put it on {picks.numbers.length === 0 ? 'them' : counted(picks.numbers.length, NOUNS[picks.kind])}
        </Button>
        <Button onClick={() => setView({ picks: null })}>Leave it</Button>
      </span>
    </li>
  )
}
