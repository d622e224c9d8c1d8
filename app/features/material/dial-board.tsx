import { Dices } from 'lucide-react'
import type { Dial, MaterialDocument } from '#core/graph/document'
import { Button } from '../../ui/button'
import { NumberSlider } from '../../ui/number-slider'
import type { EditingControl } from '../editing/document-store'

/** The dials of a material, by section. */
export function DialBoard({ document, control }: { document: MaterialDocument; control: EditingControl }) {
  const sections = [...new Set(document.dials.map(({ section }) => section ?? ''))]
  return (
    <section aria-label="Dials" className="w-80 shrink-0 overflow-auto border-l border-rule bg-panel p-4">
      <h2 className="text-[14px] font-semibold">Dials</h2>
      {document.dials.length === 0 && <p className="mt-2 text-ink-soft">This material has no dials.</p>}
      {sections.map((section) => (
        <div key={section} className="mt-3 flex flex-col gap-2.5">
          {section && <h3 className="text-ink-soft">{section}</h3>}
          {document.dials
            .filter((dial) => (dial.section ?? '') === section)
            .map((dial) => (
              <DialControl key={dial.id} dial={dial} control={control} />
            ))}
        </div>
      ))}
    </section>
  )
}

type Value = Dial['value']

function DialControl({ dial, control }: { dial: Dial; control: EditingControl }) {
  const write = (value: Value) => (draft: MaterialDocument) => {
    draft.dials.find(({ id }) => id === dial.id)!.value = value
  }
  const set = (value: Value): void => control.edit(dial.label, write(value))
  const label = (
    <span className="text-ink-soft" title={dial.help}>
      {dial.label}
    </span>
  )
  const row = 'grid grid-cols-[6.5rem_1fr] items-center gap-3'
  if (dial.kind === 'number' || dial.kind === 'whole')
    return (
      <NumberSlider
        label={dial.label}
        help={dial.help}
        unit={dial.unit}
        whole={dial.kind === 'whole'}
        min={dial.min ?? 0}
        max={dial.max ?? 1}
        standard={Number(dial.default)}
        value={Number(dial.value)}
        onDrag={(value) => control.drag(dial.label, write(value))}
        onDrop={control.drop}
        onReset={() => set(dial.default)}
      />
    )
  if (dial.kind === 'seed')
    return (
      <div className={row}>
        {label}
        <span className="flex items-center gap-2">
          <span className="font-mono">{String(dial.value)}</span>
          <Button onClick={() => set((Number(dial.value) + 1) % 4294967296)} aria-label={`${dial.label}: another`}>
            <Dices size={14} aria-hidden /> Another
          </Button>
        </span>
      </div>
    )
  if (dial.kind === 'switch')
    return (
      <label className={row}>
        {label}
        <input
          type="checkbox"
          className="size-4 accent-accent"
          checked={dial.value === true}
          onChange={(event) => set(event.target.checked)}
        />
      </label>
    )
  if (dial.kind === 'colour')
    return (
      <label className={row}>
        {label}
        <input
          type="color"
          value={String(dial.value)}
          onChange={(event) => control.drag(dial.label, write(event.target.value))}
          ref={(input) => {
            // The picker's own end of choosing; React's onChange is each step on the way.
            input?.addEventListener('change', control.drop)
            return () => input?.removeEventListener('change', control.drop)
          }}
          className="h-6 w-16"
        />
      </label>
    )
  return (
    <label className={row}>
      {label}
      <select
        value={String(dial.value)}
        onChange={(event) => set(event.target.value)}
        className="rounded border border-rule-strong bg-raised px-2 py-1"
      >
        {(dial.options ?? []).map((option) => (
          <option key={option}>{option}</option>
        ))}
      </select>
    </label>
  )
}
