import type { InputPort } from '#core/graph/ports'
import { metresOf } from '#core/document/domain'
import { titleOf, typeTitle } from '#core/graph/titles'
import { parsePort } from '#core/document/address'
import { sameOutput } from '#core/texture/stage-output'
import { CircleHelp } from 'lucide-react'
import { useMemo } from 'react'
import { fedBy } from '#core/document/edits/nodes'
import type { AnyNode, NotesContext } from '#core/graph/define-node'
import { isRelevant } from '#core/graph/parameters'
import { fitOf, openTypes, portTypes } from '#core/graph/port-types'
import type { DocumentNode, MaterialDocument } from '#core/document/document'
import { asSource } from '#core/document/sources'
import { upgradeParameters } from '#core/graph/upgrade-parameters'
import { registry } from '#core/nodes/registry.generated'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { NumberBox } from '../../ui/number-box'
import { FieldLabel } from '../../ui/number-field'
import { ToolButton } from '../../ui/tool-button'
import { useActions, useApplied, useDocument, useView, useWeights } from '../../session/material'
import { NoteField } from './note-field'
import { ParameterField } from './parameter-field'
import { allOutputs, keyOfSource, nodeTitle, nodesAndTaps, sourceOfKey } from '../../session/words/source-words'
import { weightInWords } from '../../session/words/weight-words'
import { Switches } from './switches'
import { Uses } from './uses'
import { Values } from './values'
import { EFFECT, SettingsFrame } from './settings-frame'

export function NodeSettings({ id }: { id: string }) {
  const actions = useActions()
  const document = useDocument()
  const now = useApplied(({ nodes }) => nodes[id])
  const node = document.nodes[id]!
  const definition = registry.get(node.type)
  if (!definition)
    return (
      <SettingsFrame title={node.name ?? id}>
        <p role="alert">
          ■ There is no node type “{node.type}” in this version. Delete the node, or open the material in a newer
          version.
        </p>
        <Button onClick={() => actions.deleteNodes([id])}>Delete the node</Button>
      </SettingsFrame>
    )
  const params = { ...defaultsOf(definition.params), ...shownParameters(definition, now) }
  const shown = Object.entries(definition.params).filter(([, parameter]) => isRelevant(parameter, params))
  return (
    <SettingsFrame
      title={nodeTitle(document, id)}
      onRename={(name) => actions.renameNode(id, name)}
      about={definition.summary}
      tools={
        <>
          <Switches what={{ node: id }} name={nodeTitle(document, id)} />
          <ToolButton
            icon={CircleHelp}
            word={`Help on ${definition.title}`}
            onClick={() => actions.setView({ help: { node: node.type } })}
          />
        </>
      }
    >
      {definition.presets && definition.presets.length > 0 && (
        <div className="flex flex-wrap items-center gap-1.5">
          <span className="text-ink-soft">Start from</span>
          {definition.presets.map((preset) => (
            <Button
              key={preset.title}
              onClick={() =>
                actions.edit(`Preset ${preset.title}`, (draft) => {
                  draft.nodes[id]!.params = { ...draft.nodes[id]!.params, ...preset.params }
                })
              }
            >
              {preset.title}
            </Button>
          ))}
        </div>
      )}
      {shown.map(([name, parameter]) => (
        <ParameterField
          key={name}
          name={name}
          parameter={parameter}
          target={{ node: id, field: name }}
          value={params[name]}
        />
      ))}
      {passesOn(definition) && (
        <ParameterField
          name="effect"
          parameter={EFFECT}
          target={{ node: id, part: 'effect', field: 'amount' }}
          value={now?.amount ?? 1}
          label="Effect"
        />
      )}
      <Weight id={id} />
      <Says id={id} definition={definition} params={params} />
      <NoteField note={node.note} onNote={(note) => actions.setNote({ node: id }, note)} />
      <Inputs id={id} />
      <Outputs id={id} />
      <Values />
      <Uses node={id} />
    </SettingsFrame>
  )
}

/** What the node takes and changes, where that was measured. */
function Weight({ id }: { id: string }) {
  const weight = useWeights(({ byNode }) => byNode[id])
  const width = useWeights((found) => found.width)
  const document = useDocument()
  if (!weight) return null
  const { cost, change, channel } = weightInWords(weight, document)
  return (
    <p className="text-ink-soft">
      Takes <span className="font-mono text-ink">{cost}</span> at {width}. Without it{' '}
      {channel ? (
        <>
          {channel} changes by <span className="font-mono text-ink">{change}</span> in the mean (RMS).
        </>
      ) : (
        'nothing changes.'
      )}
    </p>
  )
}

/** Whether a node changes what comes in: its first input carries what its first output does, and there is a between. */
function passesOn({ inputs, outputs }: AnyNode): boolean {
  const [input] = Object.values(inputs)
  const [output] = Object.values(outputs)
  return input !== undefined && input.type === output?.type && !['id', 'vector'].includes(input.type)
}

/** What the node reports of its rounded parameters. It may take laying thousands of units, so only on a change. */
function Says({ id, definition, params }: { id: string; definition: AnyNode; params: Record<string, unknown> }) {
  const document = useDocument()
  const given = JSON.stringify([params, { metres: metresOf(document), types: inputTypes(document, id) }])
  const lines = useMemo(() => {
    const [values, context] = JSON.parse(given) as [never, NotesContext]
    return definition.notes?.(values, context) ?? []
  }, [definition, given])
  if (lines.length === 0) return null
  return (
    <p role="status" aria-label="Resulting values" className="text-ink-soft">
      {lines.join(' ')}
    </p>
  )
}

/** Types of what a node's inputs read. */
function inputTypes(document: MaterialDocument, id: string): Record<string, string> {
  const types = portTypes(document, registry)
  return Object.fromEntries(
    Object.keys(document.nodes[id]?.inputs ?? {}).flatMap((port) => {
      const type = types.input(id, port)
      return type ? [[port, type]] : []
    }),
  )
}

/** As the definition of today names them; a later program's are shown as they are. */
function shownParameters(definition: AnyNode, node: DocumentNode | undefined): Record<string, unknown> {
  if (!node || (node.version ?? 1) > definition.version) return node?.params ?? {}
  return upgradeParameters(definition, node)
}

const defaultsOf = (params: Readonly<Record<string, { default: unknown }>>): Record<string, unknown> =>
  Object.fromEntries(Object.entries(params).map(([name, parameter]) => [name, parameter.default]))

/** Every output of a node, to be shown on the stage. */
function Outputs({ id }: { id: string }) {
  const actions = useActions()
  const document = useDocument()
  const shown = useView((view) => view.stage.shown)
  const ports = Object.entries(registry.get(document.nodes[id]!.type)!.outputs)
  return (
    <div className="grid grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
      <FieldLabel label="On the stage" help="Shows an output large and flat; once more brings the lit material back." />
      <span className="flex flex-wrap gap-1.5">
        {ports.map(([name, port]) => (
          <Button
            key={name}
            title={port.help}
            aria-pressed={sameOutput(shown, { kind: 'port', node: id, port: name })}
            onClick={() => actions.showLarge({ kind: 'port', node: id, port: name })}
            className="aria-pressed:bg-ink aria-pressed:text-ground"
          >
            {titleOf(name, port)}
          </Button>
        ))}
      </span>
    </div>
  )
}

/** The inputs of a node: what each reads, for choosing without a wire too. */
function Inputs({ id }: { id: string }) {
  const actions = useActions()
  const document = useDocument()
  const node = document.nodes[id]!
  const definition = registry.get(node.type)!
  const types = portTypes(document, registry)
  const ports = Object.entries(definition.inputs)
  if (ports.length === 0) return null
  const circular = fedBy(document, id)
  const outputs = allOutputs(document).filter((address) => !circular.has(parsePort(address).node))
  return (
    <section aria-label="Inputs" className="flex flex-col gap-1.5 border-t border-rule pt-2">
      <h4 className="font-semibold">Inputs</h4>
      {ports.map(([name, port]) => {
        const input = node.inputs?.[name]
        const source = input === undefined ? null : asSource(input)
        const type = types.input(id, name)!
        const fitting = outputs.filter(
          (address) => fitOf(types.output(address)!, type, openTypes(definition, name)).kind !== 'refused',
        )
        const own = source ? keyOfSource(source) : ''
        const options = [
          { value: '', word: readsAlone(port.whenUnconnected) },
          ...(type === 'grey' || type === 'any' ? [{ value: 'value', word: 'one value' }] : []),
          ...nodesAndTaps(document, fitting),
        ]
        if (!options.some((option) => option.value === own)) options.push({ value: own, word: own })
        const select = (key: string): void => {
          if (key === '') actions.disconnect(id, name)
          else actions.setInput(id, name, sourceOfKey(key, valueAlone(port.whenUnconnected)))
        }
        const title = titleOf(name, port)
        return (
          <div key={name} className="grid grid-cols-[7.5rem_minmax(0,1fr)_7rem] items-center gap-2">
            <FieldLabel
              label={title}
              help={`${port.help} Takes ${port.type === 'any' ? 'any of its types' : typeTitle(port.type)}.`}
            />
            <Choice label={`Input ${title.toLowerCase()}`} value={own} options={options} onChange={select} />
            {source && 'value' in source && typeof source.value === 'number' && (
              <NumberBox
                label={`Value of input ${title.toLowerCase()}`}
                min={-1e6}
                max={1e6}
                softRange={[0, 1]}
                standard={valueAlone(port.whenUnconnected)}
                value={source.value}
                onDrag={(next) =>
                  actions.drag('Input', (draft) => void (draft.nodes[id]!.inputs![name] = { value: next }))
                }
                onDrop={actions.drop}
              />
            )}
          </div>
        )
      })}
    </section>
  )
}

const valueAlone = (whenUnconnected: InputPort['whenUnconnected']): number =>
  typeof whenUnconnected === 'number' ? whenUnconnected : 0.5

const readsAlone = (whenUnconnected: InputPort['whenUnconnected']): string => {
  if (whenUnconnected === undefined) return '■ must be connected'
  if (whenUnconnected === null) return 'nothing, works without'
  if (typeof whenUnconnected === 'number') return `nothing, reads ${whenUnconnected}`
  const { type, params } = whenUnconnected
  return type === 'mesh-data'
    ? `the part’s ${String(params.kind).replace('-', ' ')}`
    : registry.get(type)!.title.toLowerCase()
}
