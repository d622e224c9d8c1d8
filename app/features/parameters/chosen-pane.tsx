import { ArrowDown, ArrowUp, CircleHelp, Maximize2, Plus, Trash2 } from 'lucide-react'
import type { ReactNode } from 'react'
import { findLayer, findPlain } from '#core/edits/layers'
import type { Layer, MaskEntry, MaterialDocument } from '#core/graph/document'
import { choice, integer, number, toggle } from '#core/graph/parameters'
import { asSource, portTypes } from '#core/graph/port-types'
import { BLEND_MODES } from '#core/kernels/blend'
import { channelsOf } from '#core/layers/expand'
import { registry } from '#core/nodes/registry.generated'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { NumberBox } from '../../ui/number-box'
import { NumberField, FieldLabel } from '../../ui/number-field'
import { ToolButton } from '../../ui/tool-button'
import { useActions, useApplied, useDocument, useEvaluation, useMaterial, useView } from '../material/material'
import type { Place } from '../material/view'
import { outputOf } from '../material/view'
import { blendWord, blendsFor } from '../sheet/blend-words'
import { Swatch } from '../sheet/swatch'
import { backToSheet } from '../sheet/sheet-keys'
import { ParameterField } from './parameter-field'
import { SourceField, outputInWords } from './source-field'
import { Switches } from './switches'
import { Uses, nodeTitle } from './uses'
import { Values } from './values'

const AMOUNT = number({ default: 1, min: 0, max: 1, help: 'How much of it shows; 0 is none, 1 is all.' })

/** What is chosen: its settings, its values, what it drives. */
export function ChosenPane() {
  const node = useView((view) => view.nodes[0])
  const place = useView((view) => view.place)
  const document = useDocument()
  if (node !== undefined && document.nodes[node]) return <NodeEditor key={node} id={node} />
  if (place?.kind === 'cell' && findPlain(document, place.layer))
    return <CellEditor layer={place.layer} channel={place.channel} />
  if (place?.kind === 'mask' && findLayer(document, place.layer))
    return <MaskEditor layer={place.layer} entry={place.entry} />
  if (place?.kind === 'layer' && findLayer(document, place.layer)) return <LayerEditor id={place.layer} />
  if (place?.kind === 'channel' && channelsOf(document).some(({ id }) => id === place.channel))
    return <ChannelEditor id={place.channel} />
  return <MaterialEditor />
}

/** The output whose values the pane shows. */
export function spreadOutput(
  nodes: readonly string[],
  place: Place | null,
  document: { nodes: object },
): string | null {
  const [node] = nodes
  if (node !== undefined && node in document.nodes) {
    const { type } = (document.nodes as Record<string, { type: string }>)[node]!
    const port = Object.entries(registry.get(type)?.outputs ?? {}).find(([, one]) => one.type !== 'count')?.[0]
    return port ? `${node}.${port}` : null
  }
  return place ? outputOf(place) : 'colour'
}

/** Title, what it is, and tools at the right; Escape leads back to the sheet. */
function Editor({
  title,
  about,
  tools,
  children,
}: {
  title: string
  about?: string
  tools?: ReactNode
  children: ReactNode
}) {
  return (
    <div
      data-editor
      className="flex flex-col gap-2.5 p-3"
      onKeyDown={(event) => event.key === 'Escape' && !event.defaultPrevented && backToSheet()}
    >
      <header className="flex items-center gap-2">
        <h3 className="truncate font-semibold" title={title}>
          {title}
        </h3>
        <p className="min-w-0 flex-1 truncate text-ink-soft" title={about}>
          {about}
        </p>
        {tools}
      </header>
      {children}
    </div>
  )
}

function NodeEditor({ id }: { id: string }) {
  const actions = useActions()
  const document = useDocument()
  const applied = useApplied()
  const node = document.nodes[id]!
  const definition = registry.get(node.type)
  if (!definition)
    return (
      <Editor title={node.name ?? id}>
        <p role="alert">
          ■ There is no node type “{node.type}” in this version. Delete the node, or open the material in a newer
          version.
        </p>
        <Button onClick={() => actions.deleteNodes([id])}>Delete the node</Button>
      </Editor>
    )
  const params = { ...defaultsOf(definition.params), ...applied.nodes[id]?.params }
  const output = spreadOutput([id], null, document)
  return (
    <Editor
      title={nodeTitle(document, id)}
      about={definition.summary}
      tools={
        <>
          <Switches what={{ node: id }} name={nodeTitle(document, id)} />
          {output && <ToolButton icon={Maximize2} word="Show on the stage" onClick={() => actions.showLarge(output)} />}
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
      {Object.entries(definition.params).map(([name, parameter]) => (
        <ParameterField
          key={name}
          name={name}
          parameter={parameter}
          target={{ node: id, field: name }}
          value={params[name]}
        />
      ))}
      <Inputs id={id} />
      {output && <Values output={output} />}
      <Uses node={id} />
    </Editor>
  )
}

const defaultsOf = (params: Readonly<Record<string, { default: unknown }>>): Record<string, unknown> =>
  Object.fromEntries(Object.entries(params).map(([name, parameter]) => [name, parameter.default]))

/** The inputs of a node: what each reads, for choosing without a wire too. */
function Inputs({ id }: { id: string }) {
  const actions = useActions()
  const document = useDocument()
  const node = document.nodes[id]!
  const definition = registry.get(node.type)!
  const types = portTypes(document, registry)
  const ports = Object.entries(definition.inputs)
  if (ports.length === 0) return null
  return (
    <section aria-label="Inputs" className="flex flex-col gap-1.5 border-t border-rule pt-2">
      <h4 className="font-semibold">Inputs</h4>
      {ports.map(([name, port]) => {
        const input = node.inputs?.[name]
        const source = input === undefined ? null : asSource(input)
        const type = types.input(id, name)
        const plain = type === 'grey' || type === 'same'
        const outputs = allOutputs(document).filter(
          (address) => actions.refusal(address, { node: id, port: name }) === null,
        )
        const own = !source
          ? ''
          : 'value' in source
            ? 'value'
            : 'node' in source
              ? `node:${source.node}`
              : 'tap' in source
                ? `tap:${source.tap}`
                : `below:${source.below}`
        const options = [
          { value: '', word: readsAlone(port.otherwise) },
          ...(plain ? [{ value: 'value', word: 'one value' }] : []),
          ...outputs.map((address) => ({ value: `node:${address}`, word: outputInWords(document, address) })),
          ...Object.keys(document.taps).map((tap) => ({ value: `tap:${tap}`, word: `tap: ${tap}` })),
        ]
        if (!options.some((option) => option.value === own)) options.push({ value: own, word: own })
        const choose = (key: string): void => {
          if (key === '') actions.disconnect(id, name)
          else if (key === 'value') actions.setInput(id, name, { value: port.otherwise ?? 0.5 })
          else if (key.startsWith('node:')) actions.connect(key.slice(5), { node: id, port: name })
          else actions.setInput(id, name, { tap: key.slice(4) })
        }
        return (
          <div key={name} className="grid grid-cols-[7.5rem_minmax(0,1fr)_5.75rem] items-center gap-2">
            <FieldLabel
              label={name}
              help={`${port.help} Takes ${port.type === 'same' ? 'any of its types' : port.type}.`}
            />
            <Choice label={`Input ${name}`} value={own} options={options} onChange={choose} />
            {source && 'value' in source && typeof source.value === 'number' && (
              <NumberBox
                label={`Value of input ${name}`}
                min={-1e6}
                max={1e6}
                usual={[0, 1]}
                standard={port.otherwise ?? 0.5}
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

const readsAlone = (otherwise: number | null | undefined): string => {
  if (otherwise === undefined) return '■ must be connected'
  return otherwise === null ? 'nothing, works without' : `nothing, reads ${otherwise}`
}

const allOutputs = (document: MaterialDocument): string[] =>
  Object.entries(document.nodes).flatMap(([id, { type }]) =>
    Object.keys(registry.get(type)?.outputs ?? {}).map((port) => `${id}.${port}`),
  )

function CellEditor({ layer: id, channel: channelId }: { layer: string; channel: string }) {
  const actions = useActions()
  const document = useDocument()
  const layer = findPlain(document, id)!
  const applied = findPlain(useApplied(), id)?.cells[channelId]
  const channel = channelsOf(document).find((one) => one.id === channelId)
  const cell = layer.cells[channelId]
  const place: Place = { kind: 'cell', layer: id, channel: channelId }
  const title = `${layer.name} · ${channel?.title ?? channelId}`
  if (!cell || !channel)
    return (
      <Editor title={title} about="empty: what lies below shows">
        <p className="text-ink-soft">
          Put something in, and this layer writes into {channel?.title.toLowerCase() ?? channelId} too.
        </p>
        <div className="flex flex-wrap gap-2">
          {channel?.type !== 'normal' && (
            <Button look="main" onClick={() => actions.fillCell(id, channelId)}>
              {channel?.type === 'colour' ? 'One colour' : 'One value'}
            </Button>
          )}
          <Button onClick={() => actions.find({ kind: 'nodes', into: place })}>
            <Plus size={13} aria-hidden /> New node
          </Button>
          {layer.kind === 'correction' && (
            <Button onClick={() => actions.setCell(id, channelId, { source: { below: channelId } }, 'Fill cell')}>
              What lies below
            </Button>
          )}
        </div>
        <p className="text-ink-soft">Or drag another cell here; with Alt held both follow one source.</p>
      </Editor>
    )
  const target = { layer: id, channel: channelId } as const
  return (
    <Editor
      title={title}
      about={cell.off ? 'off' : blendWord(cell.blend)}
      tools={
        <>
          <Switches what={target} name="this cell" />
          <ToolButton icon={Maximize2} word="Show on the stage (Space)" onClick={() => actions.showPlace(place)} />
          <ToolButton icon={Trash2} word="Clear the cell (Delete)" onClick={() => actions.clear(place)} />
        </>
      }
    >
      <SourceField
        place={place}
        source={cell.source}
        type={channel.type}
        valueTarget={{ ...target, field: 'value' }}
        correction={layer.kind === 'correction'}
      />
      <ParameterField
        name="blend"
        parameter={choice({
          default: blendsFor(channel.type)[0]!,
          options: blendsFor(channel.type),
          help: 'How it is laid over what lies below.',
        })}
        target={{ ...target, field: 'blend' }}
        value={applied?.blend ?? cell.blend}
        label="Blend"
      />
      <ParameterField
        name="amount"
        parameter={AMOUNT}
        target={{ ...target, field: 'amount' }}
        value={applied?.amount ?? cell.amount}
        label="Amount"
      />
      {channel.type === 'colour' && !['normal', 'add', 'subtract'].includes(cell.blend) && (
        <div className="grid grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
          <FieldLabel
            label="Blended as"
            help="Encoded values are what picture editors blend; linear is what light does."
          />
          <Choice
            label="Blended as"
            value={cell.encoding}
            options={[
              { value: 'srgb', word: 'encoded values' },
              { value: 'linear', word: 'linear light' },
            ]}
            onChange={(encoding) =>
              actions.setCell(id, channelId, { encoding: encoding as 'srgb' | 'linear' }, 'Encoding')
            }
            className="justify-self-start"
          />
        </div>
      )}
      <Values output={outputOf(place)} />
    </Editor>
  )
}

function MaskEditor({ layer: id, entry }: { layer: string; entry: number | null }) {
  const actions = useActions()
  const document = useDocument()
  const layer = findLayer(document, id)!
  const only = layer.mask.length === 1 ? 0 : null
  const chosen = entry !== null && layer.mask[entry] ? entry : only
  const add = (place: Place): void => actions.find({ kind: 'nodes', into: place })
  const next: Place = { kind: 'mask', layer: id, entry: layer.mask.length }
  return (
    <Editor
      title={`${layer.name} · mask`}
      about={layer.mask.length === 0 ? 'none: the layer shows everywhere' : 'the lowest entry comes first'}
      tools={
        <>
          {layer.mask.length > 0 && (
            <ToolButton
              icon={Maximize2}
              word="Show on the stage (Space)"
              onClick={() => actions.showPlace({ kind: 'mask', layer: id, entry: null })}
            />
          )}
          <Button onClick={() => actions.addMaskEntry(id, { value: 1 })}>
            <Plus size={13} aria-hidden /> Value
          </Button>
          <Button look={layer.mask.length === 0 ? 'main' : 'plain'} onClick={() => add(next)}>
            <Plus size={13} aria-hidden /> New node
          </Button>
        </>
      }
    >
      {layer.mask.length > 0 && (
        <ol aria-label="Mask entries, topmost first" className="flex flex-col gap-1">
          {layer.mask
            .map((one, index) => (
              <MaskEntryRow key={index} layer={layer} entry={one} index={index} chosen={chosen === index} />
            ))
            .reverse()}
        </ol>
      )}
      {chosen !== null && <EntryEditor layer={layer} index={chosen} />}
      {layer.mask.length > 0 && <Values output={outputOf({ kind: 'mask', layer: id, entry: chosen })} />}
    </Editor>
  )
}

function MaskEntryRow({
  layer,
  entry,
  index,
  chosen,
}: {
  layer: Layer
  entry: MaskEntry
  index: number
  chosen: boolean
}) {
  const actions = useActions()
  const document = useDocument()
  const { source } = entry
  const word =
    'value' in source
      ? `value ${source.value}`
      : 'node' in source
        ? nodeTitle(document, source.node.split('.')[0]!)
        : 'tap' in source
          ? `tap ${source.tap}`
          : `below: ${source.below}`
  return (
    <li
      className={`flex items-center gap-2 rounded border px-1.5 py-1 ${chosen ? 'border-accent bg-raised' : 'border-rule bg-panel'}`}
    >
      <button
        type="button"
        aria-pressed={chosen}
        aria-label={`Entry ${index + 1}: ${word}, ${blendWord(entry.mode)}${entry.invert ? ', inverted' : ''}`}
        onClick={() => actions.choose({ kind: 'mask', layer: layer.id, entry: index })}
        className={`flex min-w-0 flex-1 items-center gap-2 text-left ${entry.off ? 'opacity-50' : ''}`}
      >
        <Swatch output={`entry:${layer.id}:${index}`} className="size-6 shrink-0 rounded-full" />
        <span className="truncate">{word}</span>
        <span className="shrink-0 font-mono text-[11px] text-ink-soft">
          {index === 0 && entry.mode === 'multiply' ? '' : blendWord(entry.mode)}
          {entry.amount < 1 && ` ${Math.round(entry.amount * 100)} %`}
          {entry.invert && ' inverted'}
        </span>
      </button>
      <Switches what={{ layer: layer.id, entry: index }} name={`entry ${index + 1}`} />
      <ToolButton
        icon={ArrowUp}
        word={`Move entry ${index + 1} up`}
        disabled={index === layer.mask.length - 1}
        onClick={() => actions.moveMaskEntry(layer.id, index, index + 1)}
      />
      <ToolButton
        icon={ArrowDown}
        word={`Move entry ${index + 1} down`}
        disabled={index === 0}
        onClick={() => actions.moveMaskEntry(layer.id, index, index - 1)}
      />
      <ToolButton
        icon={Trash2}
        word={`Delete entry ${index + 1}`}
        onClick={() => actions.clear({ kind: 'mask', layer: layer.id, entry: index })}
      />
    </li>
  )
}

function EntryEditor({ layer, index }: { layer: Layer; index: number }) {
  const applied = useApplied()
  const entry = layer.mask[index]!
  const now = findLayer(applied, layer.id)?.mask[index] ?? entry
  const target = { layer: layer.id, entry: index } as const
  return (
    <>
      <SourceField
        place={{ kind: 'mask', layer: layer.id, entry: index }}
        source={entry.source}
        type="grey"
        valueTarget={{ ...target, field: 'value' }}
        correction={layer.kind === 'correction'}
      />
      <ParameterField
        name="mode"
        parameter={choice({
          default: 'multiply',
          options: BLEND_MODES,
          help: 'How it is combined with the entries under it; under the lowest one all is white.',
        })}
        target={{ ...target, field: 'mode' }}
        value={now.mode}
        label="Mode"
      />
      <ParameterField
        name="amount"
        parameter={AMOUNT}
        target={{ ...target, field: 'amount' }}
        value={now.amount}
        label="Amount"
      />
      <ParameterField
        name="invert"
        parameter={toggle({ default: false, help: 'Turns light and dark round.' })}
        target={{ ...target, field: 'invert' }}
        value={now.invert}
        label="Invert"
      />
    </>
  )
}

function LayerEditor({ id }: { id: string }) {
  const actions = useActions()
  const document = useDocument()
  const layer = findLayer(document, id)!
  const amount = findLayer(useApplied(), id)?.amount ?? layer.amount
  return (
    <Editor
      title={layer.name}
      about={layer.kind}
      tools={
        <>
          <Switches what={{ layer: id }} name={layer.name} />
          <ToolButton icon={Trash2} word={`Delete ${layer.name} (Delete)`} onClick={() => actions.deleteLayer(id)} />
        </>
      }
    >
      <ParameterField
        name="amount"
        parameter={AMOUNT}
        target={{ layer: id, field: 'amount' }}
        value={amount}
        label="Amount"
      />
      {layer.kind === 'group' && (
        <div className="grid grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
          <FieldLabel
            label="Closed"
            help="A closed group is put together by itself: its corrections and blends reach only what is in it. An open one lets them through to what lies below."
          />
          <input
            type="checkbox"
            role="switch"
            aria-label="Closed"
            checked={layer.closed}
            onChange={(event) => actions.setClosed(id, event.target.checked)}
            className="size-4 justify-self-start accent-accent"
          />
        </div>
      )}
      <div className="flex flex-wrap gap-2">
        <Button onClick={() => actions.choose({ kind: 'mask', layer: id, entry: null })}>
          {layer.mask.length === 0 ? 'Add a mask' : 'Edit the mask'}
        </Button>
        <Button onClick={() => actions.duplicateLayer(id)}>Duplicate</Button>
        <Button onClick={() => actions.setView({ renaming: id })}>Rename</Button>
        <Button onClick={() => actions.stepLayer(id, 1)}>
          <ArrowUp size={13} aria-hidden /> Up
        </Button>
        <Button onClick={() => actions.stepLayer(id, -1)}>
          <ArrowDown size={13} aria-hidden /> Down
        </Button>
        <Button onClick={() => actions.enterGroup(id)}>Into the group beside it</Button>
      </div>
      <Values output={outputOf({ kind: 'layer', layer: id })} />
    </Editor>
  )
}

function ChannelEditor({ id }: { id: string }) {
  const actions = useActions()
  const document = useDocument()
  const channel = channelsOf(document).find((one) => one.id === id)!
  const own = document.channels[id]
  return (
    <Editor
      title={channel.title}
      about={`whole result, ${channel.type}${channel.transfer === 'srgb' ? ', sRGB in files' : ', raw in files'}`}
      tools={
        own && (
          <ToolButton
            icon={Trash2}
            word={`Delete channel ${channel.title}`}
            onClick={() => actions.deleteChannel(id)}
          />
        )
      }
    >
      {own && typeof own.below === 'number' && (
        <NumberField
          label="Under all layers"
          help="What the channel holds where no layer writes."
          min={-1e6}
          max={1e6}
          usual={[0, 1]}
          standard={0}
          value={own.below}
          onDrag={(below) => actions.drag('Under all layers', (draft) => void (draft.channels[id]!.below = below))}
          onDrop={actions.drop}
        />
      )}
      <Values output={id} />
    </Editor>
  )
}

/** Nothing is chosen: what is true of the whole material. */
function MaterialEditor() {
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
      usual={parameter.usual}
      standard={parameter.default}
      value={value}
      onDrag={(next) => actions.drag(label, (draft) => write(draft, next))}
      onDrop={control.drop}
    />
  )
  return (
    <Editor title={document.name} about="the whole material; choose a layer or a cell for more">
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
      {field(
        'Tile width',
        number({ default: 1, min: 0.001, max: 10000, usual: [0.1, 4], help: 'How wide one tile is in the world.' }),
        document.domain.metres[0],
        'm',
        (draft, value) => {
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
          usual: [0, 0.2],
          help: 'How deep black to white of the height channel is.',
        }),
        document.heightMetres,
        'm',
        (draft, value) => void (draft.heightMetres = value),
      )}
      {field(
        'Occlusion reach',
        number({
          default: 0.05,
          min: 0.0001,
          max: 100,
          usual: [0.001, 0.3],
          help: 'How far around a point the height shuts light out.',
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
          usual: [0, 2],
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
          usual: [0, 50],
          help: 'How many times brighter than white the emission channel shines; a lit sign is about 20 (common practice).',
        }),
        document.emissionStrength,
        '×',
        (draft, value) => void (draft.emissionStrength = value),
      )}
      {field(
        'Seed',
        integer({
          default: 0,
          min: 0,
          max: 4294967295,
          usual: [0, 99],
          help: 'Another number rearranges every noise of the material.',
        }),
        document.seed,
        '',
        (draft, value) => void (draft.seed = value),
      )}
      <Values output="colour" />
      {last && (
        <p className="font-mono text-[11px] text-ink-soft">
          {Object.keys(document.nodes).length} nodes, last pass evaluated {last.evaluated} steps and kept {last.reused}
        </p>
      )}
    </Editor>
  )
}
