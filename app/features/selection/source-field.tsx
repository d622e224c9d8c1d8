import { Plus, Workflow } from 'lucide-react'
import type { PortType } from '#core/field/field'
import type { DialTarget } from '#core/document/edits/dials'
import { findLayer, findPlain } from '#core/document/edits/layers'
import { feedersOf } from '#core/document/edits/nodes'
import type { MaterialDocument, Source } from '#core/document/document'
import type { Parameter } from '#core/graph/parameters'
import { colourParameter, number } from '#core/graph/parameters'
import { fitOf, portTypes } from '#core/graph/port-types'
import type { OptionalChannel } from '#core/document/channels'
import { channelsOf, optionalChannel } from '#core/document/channels'
import { registry } from '#core/nodes/registry.generated'
import { parsePort } from '#core/document/address'
import { Swatch } from '../../session/parts/swatch'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { FieldLabel } from '../../ui/number-field'
import { useActions, useApplied, useDocument } from '../../session/material'
import type { Selection } from '../../session/view'
import { ParameterField } from './parameter-field'
import { allOutputs, keyOfSource, nodesAndTaps, sourceOfKey } from '../../session/words/source-words'

const HELP = 'What is put in: one value everywhere, the output of a node, a named result, or what lies below.'

/** A plain value within what the channel holds; what is added or subtracted may also be less than nothing. */
const valueWithin = (
  [min, max]: readonly [number, number],
  signed: boolean,
  known: OptionalChannel | undefined,
): Parameter => {
  const softRange = known?.usual ?? ([Math.max(0, min), max] as const)
  const standard = known?.backdrop ?? 0.5
  return number({ default: standard, min: signed ? -max : min, max, softRange, help: 'The same everywhere.' })
}
const COLOUR = colourParameter({ default: '#808080', help: 'The same everywhere, sRGB.' })

/** The source of a cell or mask entry. */
export function SourceField({
  place,
  source,
  type,
  valueTarget,
  range = [0, 1],
  signed = false,
}: {
  place: Selection
  source: Source
  type: PortType
  valueTarget: DialTarget
  /** What a plain value may be, and whether its negative too. */
  range?: readonly [number, number]
  signed?: boolean
}) {
  const actions = useActions()
  const document = useDocument()
  const applied = useApplied((one) => one)
  const outputs = fittingOutputs(document, type)
  const options = [
    ...(type === 'normal' ? [] : [{ value: 'value', word: type === 'colour' ? 'One colour' : 'One value' }]),
    ...nodesAndTaps(document, outputs),
    ...channelsOf(document)
      .filter((one) => fitOf(one.type, type).kind !== 'refused')
      .map((one) => ({ value: `backdrop:${one.id}`, word: `What lies below: ${one.title.toLowerCase()}` })),
  ]
  const own = keyOfSource(source)
  if (!options.some((option) => option.value === own)) options.push({ value: own, word: `${own} (does not fit)` })
  const select = (key: string): void => actions.setSource(place, sourceOfKey(key, type === 'colour' ? '#8a8378' : 0.5))
  const value = valueOf(applied, valueTarget, source)
  const feeders = feedersOf(document, source)
  return (
    <>
      <div className="grid grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
        <FieldLabel label="Source" help={HELP} />
        <span className="flex min-w-0 flex-wrap items-center gap-1.5">
          <Choice label="Source" value={own} options={options} onChange={select} className="max-w-44" />
          <Button onClick={() => actions.openPalette({ kind: 'nodes', into: place })}>
            <Plus size={13} aria-hidden /> New node
          </Button>
          {!('value' in source) && type !== 'normal' && (
            <Button
              title="Levels for this place alone; what it reads stays as it is for others"
              onClick={() => actions.addNode('levels', { into: place })}
            >
              Own tone
            </Button>
          )}
          {feeders.length > 0 && (
            <Button
              variant="quiet"
              onClick={() => actions.selectNodes([feeders[0]!])}
              title="Go to the node that feeds it"
            >
              <Workflow size={13} aria-hidden /> {feeders.length}
            </Button>
          )}
        </span>
      </div>
      {typeof value === 'number' && (
        <div data-value>
          <ParameterField
            name="value"
            parameter={valueWithin(range, signed, 'channel' in place ? optionalChannel(place.channel) : undefined)}
            target={valueTarget}
            value={value}
            label="Value"
          />
        </div>
      )}
      {typeof value === 'string' && (
        <div data-value>
          <ParameterField name="value" parameter={COLOUR} target={valueTarget} value={value} label="Colour" />
        </div>
      )}
    </>
  )
}

/** Whether there is a small picture of a choice: nodes have one of their first output. */
function hasSwatch({ nodes }: MaterialDocument, choice: string): boolean {
  if (!choice.startsWith('node:')) return false
  const { node, port } = parsePort(choice.slice(5))
  return Object.keys(registry.get(nodes[node]?.type ?? '')?.outputs ?? {})[0] === port
}

/** Nodes and named results that a place can take, each a press away. */
export function FittingSources({ place, type }: { place: Selection; type: PortType }) {
  const actions = useActions()
  const document = useDocument()
  const options = nodesAndTaps(document, fittingOutputs(document, type))
  if (options.length === 0) return null
  return (
    <section aria-label="Nodes and named results" className="flex flex-col gap-1">
      <h4 className="text-ink-soft">Nodes and named results</h4>
      <ul className="flex max-h-40 flex-wrap gap-1.5 overflow-auto">
        {options.map(({ value, word }) => (
          <li key={value}>
            <Button onClick={() => actions.setSource(place, sourceOfKey(value, 0.5))}>
              {hasSwatch(document, value) && (
                <Swatch output={{ kind: 'port', ...parsePort(value.slice(5)) }} className="size-4 rounded-sm" />
              )}
              {word}
            </Button>
          </li>
        ))}
      </ul>
    </section>
  )
}

/** The value as dials leave it. */
function valueOf(applied: MaterialDocument, target: DialTarget, source: Source): number | string | null {
  if (!('value' in source) || !('layer' in target)) return null
  const now =
    'entry' in target
      ? findLayer(applied, target.layer)?.mask[target.entry]?.source
      : 'channel' in target
        ? findPlain(applied, target.layer)?.cells[target.channel]?.source
        : undefined
  return now && 'value' in now ? now.value : source.value
}

/** Outputs of nodes that a place can take, in the order of the document. */
function fittingOutputs(document: MaterialDocument, type: PortType): string[] {
  const types = portTypes(document, registry)
  return allOutputs(document).filter((address) => {
    const from = types.output(address)
    return from !== null && fitOf(from, type).kind !== 'refused'
  })
}
