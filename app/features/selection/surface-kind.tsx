import type { Surface } from '#core/document/surface'
import { useActions, useDocument } from '../../session/material'
import { Segments } from '../../ui/choice'
import { FieldLabel } from '../../ui/number-field'

interface Row<K extends keyof Surface> {
  readonly member: K
  readonly label: string
  readonly help: string
  readonly options: readonly { readonly value: Surface[K]; readonly word: string }[]
}

const ROWS: readonly [Row<'light'>, Row<'opacity'>, Row<'sides'>] = [
  {
    member: 'light',
    label: 'Light',
    help: 'An unlit surface shows its base colour as it is, whatever the light.',
    options: [
      { value: 'lit', word: 'Lit' },
      { value: 'unlit', word: 'Unlit' },
    ],
  },
  {
    member: 'opacity',
    label: 'Opacity',
    help: 'Cut-out leaves out what is below a half, and is cheap; blended mixes with what lies behind, and has to be sorted; additive adds to it, for light and glow.',
    options: [
      { value: 'opaque', word: 'Opaque' },
      { value: 'cut-out', word: 'Cut-out' },
      { value: 'blended', word: 'Blended' },
      { value: 'additive', word: 'Additive' },
    ],
  },
  {
    member: 'sides',
    label: 'Sides',
    help: 'Whether it is seen from behind too, as leaves and cloth are.',
    options: [
      { value: 'one', word: 'One' },
      { value: 'two', word: 'Two' },
    ],
  },
]

/** The kind of surface: how an engine draws it. The stage draws it so, and deliveries tell it. */
export function SurfaceKind() {
  const actions = useActions()
  const { surface } = useDocument()
  return (
    <fieldset className="grid gap-1.5 border-t border-rule pt-2">
      <legend className="sr-only">Kind of surface</legend>
      {ROWS.map(({ member, label, help, options }) => (
        <div key={member} className="grid grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
          <FieldLabel label={label} help={help} />
          <Segments
            label={label}
            value={surface[member]}
            options={options}
            onChange={(value) =>
              actions.edit(`${label}: ${value}`, (draft) => void Object.assign(draft.surface, { [member]: value }))
            }
          />
        </div>
      ))}
    </fieldset>
  )
}
