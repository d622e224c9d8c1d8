import { Plus, Workflow } from 'lucide-react'
import type { PortType } from '#core/field/field'
import type { DialTarget } from '#core/edits/dials'
import { feedersOf } from '#core/edits/nodes'
import type { MaterialDocument, Source } from '#core/graph/document'
import { colourParameter, number } from '#core/graph/parameters'
import { fitOf, portTypes } from '#core/graph/port-types'
import { channelsOf } from '#core/layers/expand'
import { registry } from '#core/nodes/registry.generated'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { FieldLabel } from '../../ui/number-field'
import { useActions, useApplied, useDocument } from '../material/material'
import type { Place } from '../material/view'
import { ParameterField } from './parameter-field'
import { nodeTitle } from './uses'

const HELP =
  'What is put in: one value everywhere, the output of a node, a named result (tap), or, in a correction, what lies below.'

const VALUE = number({ default: 0.5, min: -1e6, max: 1e6, usual: [0, 1], help: 'The same everywhere.' })
const COLOUR = colourParameter({ default: '#808080', help: 'The same everywhere, sRGB.' })

/** The source of a cell or mask entry. */
export function SourceField({
  place,
  source,
  type,
  valueTarget,
  correction,
}: {
  place: Place
  source: Source
  type: PortType
  valueTarget: DialTarget
  correction: boolean
}) {
  const actions = useActions()
  const document = useDocument()
  const applied = useApplied()
  const outputs = fittingOutputs(document, type)
  const options = [
    ...(type === 'normal' ? [] : [{ value: 'value', word: type === 'colour' ? 'One colour' : 'One value' }]),
    ...(correction ? channelsOf(document).filter((one) => fitOf(one.type, type).kind !== 'refused') : []).map(
      (one) => ({
        value: `below:${one.id}`,
        word: `What lies below: ${one.title.toLowerCase()}`,
      }),
    ),
    ...outputs.map((address) => ({ value: `node:${address}`, word: outputInWords(document, address) })),
    ...Object.keys(document.taps).map((tap) => ({ value: `tap:${tap}`, word: `Tap: ${tap}` })),
  ]
  const own = keyOf(source)
  if (!options.some((option) => option.value === own)) options.push({ value: own, word: `${own} (does not fit)` })
  const choose = (key: string): void => {
    const at = key.indexOf(':')
    const rest = key.slice(at + 1)
    if (key === 'value') actions.setSource(place, { value: type === 'colour' ? '#8a8378' : 0.5 })
    else if (key.startsWith('node:')) actions.setSource(place, { node: rest })
    else if (key.startsWith('tap:')) actions.setSource(place, { tap: rest })
    else actions.setSource(place, { below: rest })
  }
  const value = valueOf(applied, valueTarget, source)
  const feeders = feedersOf(document, source)
  return (
    <>
      <div className="grid grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
        <FieldLabel label="Source" help={HELP} />
        <span className="flex min-w-0 flex-wrap items-center gap-1.5">
          <Choice label="Source" value={own} options={options} onChange={choose} className="max-w-44" />
          <Button onClick={() => actions.find({ kind: 'nodes', into: place })}>
            <Plus size={13} aria-hidden /> New node
          </Button>
          {feeders.length > 0 && (
            <Button
              look="quiet"
              onClick={() => actions.chooseNodes([feeders[0]!])}
              title="Go to the node that feeds it"
            >
              <Workflow size={13} aria-hidden /> {feeders.length}
            </Button>
          )}
        </span>
      </div>
      {typeof value === 'number' && (
        <ParameterField name="value" parameter={VALUE} target={valueTarget} value={value} label="Value" />
      )}
      {typeof value === 'string' && (
        <ParameterField name="value" parameter={COLOUR} target={valueTarget} value={value} label="Colour" />
      )}
    </>
  )
}

const keyOf = (source: Source): string => {
  if ('value' in source) return 'value'
  if ('node' in source) return `node:${source.node}`
  return 'tap' in source ? `tap:${source.tap}` : `below:${source.below}`
}

/** The value as dials leave it. */
function valueOf(applied: MaterialDocument, target: DialTarget, source: Source): number | string | null {
  if (!('value' in source) || !('layer' in target)) return null
  const find = (layers: MaterialDocument['layers']): Source | undefined => {
    for (const layer of layers) {
      if (layer.id === target.layer) {
        if ('entry' in target) return layer.mask[target.entry]?.source
        return 'channel' in target && layer.kind !== 'group'
          ? (layer as { cells: Record<string, { source: Source }> }).cells[target.channel]?.source
          : undefined
      }
      const inside = layer.kind === 'group' ? find(layer.layers) : undefined
      if (inside) return inside
    }
    return undefined
  }
  const now = find(applied.layers)
  return now && 'value' in now ? now.value : source.value
}

/** Outputs of nodes that a place can take, in the order of the document. */
export function fittingOutputs(document: MaterialDocument, type: PortType): string[] {
  const types = portTypes(document, registry)
  return Object.entries(document.nodes).flatMap(([id, node]) =>
    Object.keys(registry.get(node.type)?.outputs ?? {})
      .map((port) => `${id}.${port}`)
      .filter((address) => {
        const from = types.output(address)
        return from !== null && fitOf(from, type).kind !== 'refused'
      }),
  )
}

export function outputInWords(document: MaterialDocument, address: string): string {
  const [id = '', port = ''] = address.split('.')
  const several = Object.keys(registry.get(document.nodes[id]?.type ?? '')?.outputs ?? {}).length > 1
  return several ? `${nodeTitle(document, id)}: ${port}` : nodeTitle(document, id)
}
