import { Segments } from '../../ui/choice'
import { integer, number } from '#core/graph/parameters'
import { NumberField, FieldLabel } from '../../ui/number-field'
import { useActions, useDocument, useEvaluation, useMaterial } from '../../session/material'
import { NamedResults } from './named-results'
import { Values } from './values'
import { SettingsFrame } from './settings-frame'
import { SurfaceKind } from './surface-kind'

/** Nothing is chosen: what is true of the whole material. */
export function MaterialSettings() {
  const actions = useActions()
  const { control } = useMaterial()
  const document = useDocument()
  const last = useEvaluation((evaluation) => evaluation.last)
  const field = (
    label: string,
    parameter: ReturnType<typeof number>,
    value: number,
    unit: string,
    write: (draft: typeof document, value: number) => void,
  ) => (
    <NumberField
      label={label}
      help={parameter.help}
      unit={unit}
      whole={parameter.kind === 'integer'}
      min={parameter.min!}
      max={parameter.max!}
      softRange={parameter.softRange}
      standard={parameter.default}
      value={value}
      onDrag={(next) => actions.drag(label, (draft) => write(draft, next))}
      onDrop={control.drop}
    />
  )
  return (
    <SettingsFrame title={document.name} about="the whole material; choose a layer or a cell for more">
      <div className="grid grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
        <FieldLabel label="Name" />
        <input
          aria-label="Name of the material"
          defaultValue={document.name}
          key={document.name}
          maxLength={200}
          onBlur={(event) => {
            const name = event.target.value.trim()
            if (name !== '') actions.edit('Rename material', (draft) => void (draft.name = name))
          }}
          className="rounded border border-rule-strong bg-raised px-1.5 py-0.5"
        />
      </div>
      <div className="grid grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
        <FieldLabel
          label="Spread over"
          help="A tile repeats in every direction. On a part the material follows its UV layout and can read what was baked of its form; lengths are metres on it."
        />
        <Segments
          label="Spread over"
          value={document.domain.kind}
          options={[
            { value: 'tile', word: 'A tile' },
            { value: 'part', word: 'A part' },
          ]}
          onChange={(kind) => {
            actions.edit(kind === 'part' ? 'For parts' : 'For a tile', (draft) => {
              draft.domain = kind === 'part' ? { kind: 'part' } : { kind: 'tile', metres: [1, 1] }
            })
            actions.setStage({ mode: kind === 'part' ? 'part' : 'model' })
          }}
        />
      </div>
      {document.domain.kind === 'tile' &&
        field(
          'Tile width',
          number({
            default: 1,
            min: 0.001,
            max: 10000,
            softRange: [0.1, 4],
            help: 'How wide one tile is in the world.',
          }),
          document.domain.metres[0],
          'm',
          (draft, value) => {
            if (draft.domain.kind !== 'tile') return
            const [width, height] = draft.domain.metres
            draft.domain.metres = [value, Number(((height / width) * value).toPrecision(10))]
          },
        )}
      {field(
        'Height depth',
        number({
          default: 0.02,
          min: 0,
          max: 1000,
          softRange: [0, 0.2],
          help: 'How deep black to white of the height channel is.',
        }),
        document.heightMetres,
        'm',
        (draft, value) => void (draft.heightMetres = value),
      )}
      <div className="grid grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
        <FieldLabel
          label="Bends normals"
          help="Whether the height of the layers bends the normal channel. Off where the layers’ normals hold that relief already, as those of a set of maps do."
        />
        <input
          type="checkbox"
          role="switch"
          aria-label="Bends normals"
          checked={!document.normalsHoldHeight}
          onChange={(event) => {
            const isOn = event.target.checked
            actions.edit('Height bends normals', (draft) => {
              if (isOn) delete draft.normalsHoldHeight
              else draft.normalsHoldHeight = true
            })
          }}
          className="size-4 justify-self-start accent-accent"
        />
      </div>
      {field(
        'Occlusion reach',
        number({
          default: 0.05,
          min: 0.0001,
          max: 100,
          softRange: [0.001, 0.3],
          help: 'How far around a point higher places darken it.',
        }),
        document.occlusion.radiusMetres,
        'm',
        (draft, value) => void (draft.occlusion.radiusMetres = value),
      )}
      {field(
        'Occlusion',
        number({
          default: 1,
          min: 0,
          max: 4,
          softRange: [0, 2],
          help: 'How strongly the height darkens the occlusion channel.',
        }),
        document.occlusion.strength,
        '×',
        (draft, value) => void (draft.occlusion.strength = value),
      )}
      {field(
        'Emission',
        number({
          default: 1,
          min: 0,
          max: 100000,
          softRange: [0, 50],
          help: 'How many times brighter than white the emission channel shines; a lit sign is about 20 (common practice).',
        }),
        document.emissionStrength,
        '×',
        (draft, value) => void (draft.emissionStrength = value),
      )}
      <SurfaceKind />
      {field(
        'Seed',
        integer({
          default: 0,
          min: 0,
          max: 4294967295,
          softRange: [0, 99],
          help: 'Another number rearranges every noise of the material.',
        }),
        document.seed,
        '',
        (draft, value) => void (draft.seed = value),
      )}
      <NamedResults />
      <Values />
      {last && (
        <p className="font-mono text-note text-ink-soft">
          {Object.keys(document.nodes).length} nodes, last pass evaluated {last.evaluated} steps and kept {last.reused}
        </p>
      )}
    </SettingsFrame>
  )
}
