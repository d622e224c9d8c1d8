import { titleOf } from '#core/graph/titles'
import { Dices, Link, Unlink } from 'lucide-react'
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
import { useDocument, useMaterial } from '../../session/material'
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

/** Two numbers, across and down, each with a dial of its own. */
function PairField(field: Named) {
  const pair = field.value as [number, number]
  const standard = field.parameter.default as [number, number]
  const part = (index: 0 | 1): FieldProps => ({
    ...field,
    parameter: { ...field.parameter, kind: 'number', default: standard[index] },
    target: { ...field.target, field: `${field.name}.${index}` } as DialTarget,
    value: pair[index],
    whole: pair,
    label: `${field.label} ${index === 0 ? 'across' : 'down'}`,
  })
  // The schema knows whether halves are allowed.
  const half = (field.parameter.min ?? 0) + 0.5
  const whole = !field.parameter.schema.safeParse([half, half]).success
  const document = useDocument()
  const isDriven = ([0, 1] as const).some((index) => driverOf(document, part(index).target) !== null)
  const [wanted, setLinked] = useState(pair[0] === pair[1])
  const linked = wanted && !isDriven
  return (
    <div className="grid grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
      <FieldLabel label={field.label} help={field.parameter.help} />
      <span className="flex flex-wrap items-center gap-2">
        <PairPart {...part(0)} integral={whole} mark="↔" linked={linked} />
        <button
          type="button"
          aria-pressed={linked}
          disabled={isDriven}
          aria-label={`${field.label}: across and down keep their ratio`}
          title={
            isDriven
              ? 'A dial drives one of them'
              : linked
                ? 'Both keep their ratio; press to set them apart'
                : 'Keep their ratio: one follows the other'
          }
          onClick={() => setLinked(!linked)}
          className="rounded p-1 text-ink-soft hover:text-ink disabled:opacity-40 aria-pressed:bg-ink aria-pressed:text-ground"
        >
          {linked ? <Link size={12} aria-hidden /> : <Unlink size={12} aria-hidden />}
        </button>
        <PairPart {...part(1)} integral={whole} mark="↕" linked={linked} />
      </span>
    </div>
  )
}

/** As useTarget, where the other part of a pair follows. */
function useLinked(field: FieldProps & { label: string }, integral: boolean): Pick<Bound, 'drag' | 'drop'> {
  const pairName = String((field.target as { field: string }).field)
  const index = pairName.endsWith('.0') ? 0 : 1
  const target = { ...field.target, field: pairName.slice(0, -2) } as DialTarget
  const bound = useTarget(field.label, target)
  // The ratio is that of the pair when a drag began.
  const began = useRef<readonly [number, number] | null>(null)
  return {
    drag: (value) => {
      began.current ??= field.whole as [number, number]
      const { min = 0, max = 1 } = field.parameter
      bound.drag(inRatio(began.current, index, value as number, { whole: integral, min, max }))
    },
    drop: () => {
      began.current = null
      bound.drop()
    },
  }
}

function PairPart({
  integral,
  mark,
  linked,
  ...part
}: FieldProps & { integral: boolean; mark: string; linked: boolean }) {
  const field = part as Named
  const alone = useTarget(field.label, field.target, field.whole)
  const both = useLinked(field, integral)
  const bound = linked ? both : alone
  return (
    <span className="group/param flex items-center gap-1">
      <span aria-hidden className="text-ink-soft">
        {mark}
      </span>
      <NumberBox {...numberProps(field)} whole={integral} onDrag={bound.drag} onDrop={bound.drop} className="w-24" />
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
      className="rounded px-1 font-mono text-[10px] text-ink-soft hover:text-ink aria-pressed:bg-ink aria-pressed:text-ground"
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
  const { view } = useMaterial()
  return (
    <Row field={field}>
      <ColourBox
        label={field.label}
        value={String(field.value)}
        standard={String(field.parameter.default)}
        onDrag={bound.drag}
        onDrop={bound.drop}
        onPick={(take) => view.setState({ picking: take, notice: 'Press on the stage to take its base colour there.' })}
      />
    </Row>
  )
}

function StopsField(field: Named) {
  const bound = useTarget(field.label, field.target)
  const mix = 'node' in field.target ? field.target.node : ''
  return (
    <RampField label={field.label} help={field.parameter.help} node={mix} stops={field.value as Stop[]} bound={bound} />
  )
}

function AnyCurve(field: Named) {
  const bound = useTarget(field.label, field.target)
  return (
    <CurveField label={field.label} help={field.parameter.help} points={field.value as CurvePoint[]} bound={bound} />
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
