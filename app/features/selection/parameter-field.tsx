import { titleOf } from '#core/graph/titles'
import { Dices, Link, Pipette, Unlink } from 'lucide-react'
import type { ReactNode } from 'react'
import { useRef, useState } from 'react'
import type { DialTarget } from '#core/document/edits/dials'
import { driverOf } from '#core/document/edits/dials'
import { UNIT_WORDS, shapeOf } from '#core/graph/dial-shape'
import type { CurvePoint, Parameter, Stop } from '#core/graph/parameters'
import { Button } from '../../ui/button'
import { Choice, Segments } from '../../ui/choice'
import { ColourBox } from '../../ui/colour-field'
import type { NumberProps } from '../../ui/number-box'
import { NumberBox } from '../../ui/number-box'
import { FieldLabel, NumberField } from '../../ui/number-field'
import { useActions, useDocument, useView } from '../../session/material'
import { CurveField } from './curve-field'
import { DialMark } from './dial-mark'
import { ImageField } from '../../session/parts/image-field'
import { inRatio } from './in-ratio'
import { RampField } from './ramp-field'
import type { Bound } from './target'
import { isDialValue, useTarget } from './target'

export interface FieldProps {
  /** Its name in the schema. */
  readonly name: string
  readonly parameter: Parameter
  readonly target: DialTarget
  readonly value: unknown
  /** The parameter this is a part of, where it is one. */
  readonly whole?: unknown
  readonly label?: string
}

/** The control of one parameter, from its schema. */
export function ParameterField(props: FieldProps) {
  const { name, parameter } = props
  const label = props.label ?? titleOf(name, parameter)
  const own = { ...props, label }
  if (parameter.kind === 'number' || parameter.kind === 'integer')
    return name === 'seed' ? <SeedField {...own} /> : <OneNumber {...own} />
  if (parameter.kind === 'pair') return <PairField {...own} />
  if (parameter.kind === 'channels') return <ChannelsField {...own} />
  if (parameter.kind === 'choice') return <ChoiceField {...own} />
  if (parameter.kind === 'toggle') return <SwitchField {...own} />
  if (parameter.kind === 'colour') return <ColourField {...own} />
  if (parameter.kind === 'stops') return <StopsField {...own} />
  if (parameter.kind === 'curve') return <AnyCurve {...own} />
  if (parameter.kind === 'ids') return <IdsField {...own} />
  return <AnImage {...own} />
}

type Named = FieldProps & { label: string }

function Aside({ name, parameter, label, target, value, whole }: Named) {
  const shape = shapeOf(name, parameter)
  return shape && isDialValue(value) ? (
    <DialMark label={label} target={target} shape={shape} value={value} whole={whole} />
  ) : null
}

/** A row without a track: label, and a control over the rest. */
function Row({ field, children }: { field: Named; children: ReactNode }) {
  return (
    <div className="group/param grid min-h-6 grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
      <FieldLabel label={field.label} help={field.parameter.help} aside={<Aside {...field} />} />
      {children}
    </div>
  )
}

const numberProps = ({ parameter, label, value }: Named): Omit<NumberProps, 'onDrag' | 'onDrop'> => ({
  label,
  unit: parameter.unit && UNIT_WORDS[parameter.unit],
  whole: parameter.kind === 'integer',
  min: parameter.min ?? 0,
  max: parameter.max ?? 1,
  softRange: parameter.softRange,
  standard: Number(parameter.default),
  value: Number(value),
})

function OneNumber(field: Named) {
  const bound = useTarget(field.label, field.target, field.whole)
  return (
    <div className="group/param">
      <NumberField
        {...numberProps(field)}
        help={field.parameter.help}
        aside={<Aside {...field} />}
        onDrag={bound.drag}
        onDrop={bound.drop}
      />
    </div>
  )
}

function SeedField(field: Named) {
  const bound = useTarget(field.label, field.target)
  return (
    <Row field={field}>
      <span className="flex items-center gap-2">
        <NumberBox {...numberProps(field)} onDrag={bound.drag} onDrop={bound.drop} className="w-28" />
        <Button
          aria-label={`${field.label}: roll another`}
          title="Another arrangement"
          onClick={() => bound.set(Math.floor(Math.random() * 10000))}
        >
          <Dices size={14} aria-hidden /> Reroll
        </Button>
      </span>
    </Row>
  )
}

/** Numbers that stand for things, typed one after the other or picked on the stage. */
function IdsField(field: Named) {
  const bound = useTarget(field.label, field.target)
  const actions = useActions()
  const node = 'node' in field.target ? field.target.node : null
  const picking = useView((one) => node !== null && one.pickingIds === node)
  const listed = (field.value as number[]).join(', ')
  const take = (text: string): void => {
    const numbers = [...new Set((text.match(/\d+/g) ?? []).map(Number))]
    if (field.parameter.schema.safeParse(numbers).success && numbers.join(', ') !== listed) bound.set(numbers)
  }
  return (
    <Row field={field}>
      <span className="flex items-center gap-2">
        <input
          key={listed}
          aria-label={field.label}
          defaultValue={listed}
          placeholder="none picked"
          className="min-w-0 flex-1 rounded border border-rule-strong bg-raised px-1.5 py-0.5"
          onBlur={(event) => take(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Enter') take(event.currentTarget.value)
          }}
        />
        {node !== null && (
          <Button
            aria-pressed={picking}
            title="Press what is meant on the stage; press it again to take it out. Escape ends it."
            onClick={() => actions.setView({ pickingIds: picking ? null : node })}
          >
            <Pipette size={14} aria-hidden /> {picking ? 'Picking …' : 'Pick'}
          </Button>
        )}
      </span>
    </Row>
  )
}

/** A part of a pair as a field of its own, with a dial of its own. */
const partOf = (pair: Named, index: 0 | 1): Named => ({
  ...pair,
  parameter: {
    ...pair.parameter,
    kind: 'number',
    default: (pair.parameter.default as [number, number])[index],
  },
  target: { ...pair.target, field: `${pair.name}.${index}` } as DialTarget,
  value: (pair.value as [number, number])[index],
  whole: pair.value,
  label: `${pair.label} ${index === 0 ? 'across' : 'down'}`,
})

/** Two numbers, across and down; while they are linked, one follows the other. */
function PairField(field: Named) {
  const [across, down] = field.value as [number, number]
  // The schema knows whether halves are allowed.
  const half = (field.parameter.min ?? 0) + 0.5
  const integral = !field.parameter.schema.safeParse([half, half]).success
  const document = useDocument()
  const isDriven = ([0, 1] as const).some((index) => driverOf(document, partOf(field, index).target) !== null)
  const [wanted, setLinked] = useState(across === down)
  const linked = wanted && !isDriven
  const why = isDriven
    ? 'A dial drives one of them'
    : linked
      ? 'Both keep their ratio; press to set them apart'
      : 'Keep their ratio: one follows the other'
  return (
    <div className="grid grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
      <FieldLabel label={field.label} help={field.parameter.help} />
      <span className="flex flex-wrap items-center gap-2">
        <PairPart pair={field} index={0} integral={integral} linked={linked} />
        <button
          type="button"
          aria-pressed={linked}
          disabled={isDriven}
          aria-label={`${field.label}: across and down keep their ratio`}
          title={why}
          onClick={() => setLinked(!linked)}
          className="rounded p-1 text-ink-soft hover:text-ink disabled:opacity-40 aria-pressed:bg-ink aria-pressed:text-ground"
        >
          {linked ? <Link size={12} aria-hidden /> : <Unlink size={12} aria-hidden />}
        </button>
        <PairPart pair={field} index={1} integral={integral} linked={linked} />
      </span>
    </div>
  )
}

/** As useTarget of a whole pair, for one of its parts; the other keeps the ratio there was when a drag began. */
function useLinked(pair: Named, index: 0 | 1, integral: boolean): Pick<Bound, 'drag' | 'drop'> {
  const bound = useTarget(pair.label, pair.target)
  const began = useRef<readonly [number, number] | null>(null)
  const { min = 0, max = 1 } = pair.parameter
  return {
    drag: (value) => {
      began.current ??= pair.value as [number, number]
      bound.drag(inRatio(began.current, index, value as number, { whole: integral, min, max }))
    },
    drop: () => {
      began.current = null
      bound.drop()
    },
  }
}

function PairPart({
  pair,
  index,
  integral,
  linked,
}: {
  pair: Named
  index: 0 | 1
  integral: boolean
  linked: boolean
}) {
  const field = partOf(pair, index)
  const alone = useTarget(field.label, field.target, field.whole)
  const both = useLinked(pair, index, integral)
  const { drag, drop } = linked ? both : alone
  return (
    <span className="group/param flex items-center gap-1">
      <span aria-hidden className="text-ink-soft">
        {index === 0 ? '↔' : '↕'}
      </span>
      <NumberBox {...numberProps(field)} whole={integral} onDrag={drag} onDrop={drop} className="w-24" />
      <Aside {...field} />
    </span>
  )
}

const RGB = ['red', 'green', 'blue']

/** One number for all channels, or one for each. */
function ChannelsField(field: Named) {
  const bound = useTarget(field.label, field.target)
  const { value } = field
  const each = Array.isArray(value)
  const split = (
    <button
      type="button"
      aria-pressed={each}
      aria-label={`${field.label}: one number for each of red, green, blue`}
      title={each ? 'One number for all' : 'One number for each of red, green, blue'}
      onClick={() => bound.set(each ? (value as number[])[0] : [value, value, value])}
      className="rounded px-1 font-mono text-tiny text-ink-soft hover:text-ink aria-pressed:bg-ink aria-pressed:text-ground"
    >
      rgb
    </button>
  )
  if (!each)
    return (
      <div className="group/param">
        <NumberField
          {...numberProps(field)}
          help={field.parameter.help}
          aside={
            <>
              {split}
              <Aside {...field} />
            </>
          }
          onDrag={bound.drag}
          onDrop={bound.drop}
        />
      </div>
    )
  return (
    <div className="grid grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
      <FieldLabel label={field.label} help={field.parameter.help} aside={split} />
      <span className="flex gap-1">
        {(value as number[]).map((one, index) => (
          <ChannelPart
            key={index}
            {...field}
            label={`${field.label} ${RGB[index]}`}
            target={{ ...field.target, field: `${field.name}.${index}` } as DialTarget}
            value={one}
            whole={value}
          />
        ))}
      </span>
    </div>
  )
}

function ChannelPart(field: Named) {
  const bound = useTarget(field.label, field.target, field.whole)
  return <NumberBox {...numberProps(field)} onDrag={bound.drag} onDrop={bound.drop} className="w-20" />
}

function ChoiceField(field: Named) {
  const bound = useTarget(field.label, field.target)
  const options = field.parameter.options ?? []
  const words = options.map((value) => ({ value, word: value.replace(/-/g, ' ') }))
  return (
    <Row field={field}>
      {options.join('').length <= 26 && options.length <= 4 ? (
        <span className="justify-self-start">
          <Segments label={field.label} value={String(field.value)} options={words} onChange={bound.set} />
        </span>
      ) : (
        <Choice
          label={field.label}
          value={String(field.value)}
          options={words}
          onChange={bound.set}
          className="justify-self-start"
        />
      )}
    </Row>
  )
}

function SwitchField(field: Named) {
  const bound = useTarget(field.label, field.target)
  return (
    <Row field={field}>
      <input
        type="checkbox"
        role="switch"
        aria-label={field.label}
        checked={field.value === true}
        onChange={(event) => bound.set(event.target.checked)}
        className="size-4 justify-self-start accent-accent"
      />
    </Row>
  )
}

function ColourField(field: Named) {
  const bound = useTarget(field.label, field.target, field.whole)
  const actions = useActions()
  return (
    <Row field={field}>
      <ColourBox
        label={field.label}
        value={String(field.value)}
        standard={String(field.parameter.default)}
        onDrag={bound.drag}
        onDrop={bound.drop}
        onPick={actions.pickColour}
      />
    </Row>
  )
}

const nodeOf = ({ target }: Named): string => ('node' in target ? target.node : '')

function StopsField(field: Named) {
  const bound = useTarget(field.label, field.target)
  return (
    <RampField
      label={field.label}
      help={field.parameter.help}
      node={nodeOf(field)}
      stops={field.value as Stop[]}
      bound={bound}
    />
  )
}

function AnyCurve(field: Named) {
  const bound = useTarget(field.label, field.target)
  return (
    <CurveField
      label={field.label}
      help={field.parameter.help}
      node={nodeOf(field)}
      points={field.value as CurvePoint[]}
      bound={bound}
    />
  )
}

function AnImage(field: Named) {
  const bound = useTarget(field.label, field.target)
  return (
    <Row field={field}>
      <ImageField label={field.label} value={String(field.value)} onChange={bound.set} />
    </Row>
  )
}
