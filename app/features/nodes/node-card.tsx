import { titleOf, typeTitle } from '#core/graph/titles'
import { formatPort } from '#core/document/address'
import { sameOutput } from '#core/texture/stage-output'
import { StickyNote } from 'lucide-react'
import type { NodeProps } from '@xyflow/react'
import { Handle, Position, useUpdateNodeInternals } from '@xyflow/react'
import { useEffect, useRef } from 'react'
import type { PortType } from '#core/field/field'
import { registry } from '#core/nodes/registry.generated'
import { useActions, useApplied, useUndialled, useEvaluation, useView, useWeights } from '../../session/material'
import { lackInWords } from '../../session/words/fault-words'
import { nodeTitle } from '../../session/words/source-words'
import { RenameInput } from '../../ui/rename-input'
import { Swatch } from '../../session/parts/swatch'
import type { BelowCard, OutputCard } from './node-graph'
import type { CardSize } from './card-size'
import { HEAD, LINE, TITLE } from './card-size'
import { CardWeight } from './weights'

export interface CardData extends Record<string, unknown> {
  /** Types of the ports, as the graph stands: "in:name" and "out:name". */
  readonly types: Readonly<Record<string, PortType | 'any'>>
  readonly faint: boolean
  /** Nothing reads it: it may wait unfinished without anybody being told. */
  readonly parked: boolean
  readonly size: CardSize
}
export interface BelowCardData extends Record<string, unknown> {
  readonly card: BelowCard
  readonly size: CardSize
}
export interface OutputCardData extends Record<string, unknown> {
  readonly card: OutputCard
  readonly size: CardSize
}

/** Has a card's ports found anew when others take their places; React Flow sees only that a card grows or shrinks. */
function usePorts(card: string, names: readonly string[]): void {
  const updateInternals = useUpdateNodeInternals()
  const all = names.join(' ')
  const measured = useRef(all)
  useEffect(() => {
    // The first time React Flow measures all cards in one go; here each would take as long as all of them.
    if (measured.current === all) return
    measured.current = all
    updateInternals(card)
  }, [updateInternals, card, all])
}

/** A node: its picture, its name, what it is set to, its ports with their words. */
export function NodeCard({ id, data, selected }: NodeProps) {
  const { types, faint, parked, size } = data as CardData
  const actions = useActions()
  const document = useUndialled()
  const renaming = useView((view) => view.renamingNode === id)
  const node = document.nodes[id]
  const definition = registry.get(node?.type ?? '')
  const first = Object.keys(definition?.outputs ?? {})[0]
  const fault = useEvaluation((evaluation) =>
    first ? evaluation.faults[formatPort({ node: id, port: first })] : undefined,
  )
  usePorts(id, Object.keys(types))
  // What feeds it tells its own fault.
  const own = fault?.node === id ? fault : null
  const weighed = useWeights(({ byNode }) => byNode[id] !== undefined)
  const isParked = own?.code === 'input-missing' && parked
  if (!node) return null
  return (
    <div
      data-node={id}
      data-faint={faint || undefined}
      className={`rounded-md border ${
        selected ? 'border-accent ring-1 ring-accent' : faint ? 'border-rule' : 'border-rule-strong'
      } ${faint ? 'bg-raised text-ink-soft' : 'bg-panel shadow-sm'} ${node.off ? 'border-dashed' : ''} ${parked && !selected ? 'opacity-55' : ''}`}
      title={parked ? 'Nothing reads it' : undefined}
      style={{ width: size.width }}
    >
      <div className="flex items-center gap-2 p-1.5" style={{ height: HEAD }}>
        {first ? (
          <Swatch
            output={{ kind: 'port', node: id, port: first }}
            calm={isParked}
            className={`size-9 shrink-0 rounded-sm ${node.off || faint ? 'opacity-40' : ''}`}
          />
        ) : (
          <span className="grid size-9 place-items-center">■</span>
        )}
        <div className="min-w-0 flex-1 leading-tight" onDoubleClick={() => actions.setView({ renamingNode: id })}>
          {renaming ? (
            <Rename id={id} onEnd={() => actions.setView({ renamingNode: null })} />
          ) : (
            <p className={`truncate ${faint ? '' : 'font-semibold'}`} title={definition?.summary}>
              {nodeTitle(document, id)}
              {node.note && (
                <span title={node.note}>
                  {' '}
                  <StickyNote size={11} aria-label="has a note" className="inline text-ink-soft" />
                </span>
              )}
            </p>
          )}
          {own ? (
            <p className={`truncate text-[11px] ${isParked ? 'text-ink-soft' : ''}`} title={own.message}>
              {isParked ? '' : own.missing ? '■ ' : '▲ '}
              {lackInWords(document, own) ?? own.message}
            </p>
          ) : weighed ? (
            <CardWeight id={id} />
          ) : (
            <Summary id={id} />
          )}
        </div>
      </div>
      <div className="relative flex justify-between pb-1">
        <Ports side="in" names={Object.keys(definition?.inputs ?? {})} types={types} helps={definition?.inputs} />
        <Ports
          side="out"
          names={Object.keys(definition?.outputs ?? {})}
          types={types}
          helps={definition?.outputs}
          onShow={(port) => actions.showLarge({ kind: 'port', node: id, port })}
          node={id}
        />
      </div>
    </div>
  )
}

function Rename({ id, onEnd }: { id: string; onEnd(): void }) {
  const actions = useActions()
  const document = useUndialled()
  return (
    <RenameInput
      label="Name of the node"
      name={nodeTitle(document, id)}
      onName={(name) => actions.renameNode(id, name)}
      onEnd={onEnd}
      className="nodrag w-full px-1"
    />
  )
}

/** What a node is set to, in a few words: what differs from the defaults first. */
function Summary({ id }: { id: string }) {
  const node = useApplied(({ nodes }) => nodes[id])
  const definition = registry.get(node?.type ?? '')
  if (!node || !definition) return <p className="text-[11px]">unknown node “{node?.type}”</p>
  const words = Object.entries(definition.params)
    .map(([name, parameter]) => ({ name, parameter, value: node.params?.[name] ?? parameter.default }))
    .filter(
      ({ name, value, parameter }) => name !== 'seed' && JSON.stringify(value) !== JSON.stringify(parameter.default),
    )
    .map(({ name, parameter, value }) => inWords(titleOf(name, parameter), value))
    .filter((word) => word !== '')
  return (
    <p className="truncate text-[11px] text-ink-soft" title={words.join(', ')}>
      {node.off ? 'off' : words.slice(0, 3).join(', ') || (node.name ? definition.title : definition.summary)}
    </p>
  )
}

function inWords(title: string, value: unknown): string {
  const name = title.toLowerCase()
  if (typeof value === 'number') return `${name} ${Number(value.toFixed(3))}`
  if (typeof value === 'boolean') return value ? name : `not ${name}`
  if (typeof value === 'string') return value.startsWith('sha256:') ? '' : value
  if (Array.isArray(value) && value.every((one) => typeof one === 'number'))
    return value.map((v) => Number(v.toFixed(3))).join(' × ')
  return Array.isArray(value) ? `${value.length} ${name}` : ''
}

/** Ports down one side: each a handle, its name, and the word for what it carries. */
function Ports({
  side,
  names,
  types,
  helps,
  onShow,
  node,
}: {
  side: 'in' | 'out'
  names: readonly string[]
  types: CardData['types']
  helps?: Readonly<Record<string, { help: string; title?: string }>>
  onShow?(port: string): void
  node?: string
}) {
  return (
    <ul className={`min-w-0 ${side === 'out' ? 'text-right' : ''}`}>
      {names.map((name) => (
        <PortLine
          key={name}
          side={side}
          name={name}
          title={titleOf(name, helps?.[name])}
          type={types[`${side}:${name}`]}
          help={helps?.[name]?.help}
          onShow={onShow}
          node={node}
        />
      ))}
    </ul>
  )
}

function PortLine({
  side,
  name,
  title,
  type,
  help,
  onShow,
  node,
}: {
  side: 'in' | 'out'
  name: string
  title: string
  type: PortType | 'any' | undefined
  help?: string
  onShow?(port: string): void
  node?: string
}) {
  const shown = useView(
    (view) => node !== undefined && sameOutput(view.stage.shown, { kind: 'port', node, port: name }),
  )
  const word = typeTitle(type ?? '?')
  const plain = title.toLowerCase() === word.toLowerCase() || (side === 'out' && name === 'result')
  return (
    <li
      className="relative flex items-center gap-1 px-2"
      style={{ height: LINE, justifyContent: side === 'in' ? 'start' : 'end' }}
    >
      <Handle
        type={side === 'in' ? 'target' : 'source'}
        id={`${side}:${name}`}
        position={side === 'in' ? Position.Left : Position.Right}
        role="img"
        aria-label={`${side === 'in' ? 'Input' : 'Output'} ${title.toLowerCase()}, ${word}`}
      />
      {!plain && <span className="truncate text-[11px]">{title}</span>}
      {onShow ? (
        <button
          type="button"
          title={`${help ?? ''} Press to see it on the stage.`}
          aria-label={`${word}: show ${title.toLowerCase()} on the stage`}
          aria-pressed={shown}
          onClick={(event) => {
            event.stopPropagation()
            onShow(name)
          }}
          className={`nodrag rounded border px-1 font-mono text-[9.5px] leading-[13px] ${
            shown
              ? 'border-accent-fill bg-accent-fill text-on-accent'
              : 'border-rule bg-raised text-ink-soft hover:border-accent'
          }`}
        >
          {word}
        </button>
      ) : (
        <span
          title={help}
          className="rounded border border-rule bg-raised px-1 font-mono text-[9.5px] leading-[13px] text-ink-soft"
        >
          {word}
        </span>
      )}
    </li>
  )
}

/** Where wires into a correction's operations begin: what lies below it. */
export function BelowCardView({ id, data }: NodeProps) {
  const { card, size } = data as BelowCardData
  usePorts(
    id,
    card.channels.map((channel) => channel.id),
  )
  return (
    <div className="rounded-md border border-rule-strong bg-ground shadow-sm" style={{ width: size.width }}>
      <p
        className="truncate px-2 pt-1 font-semibold"
        style={{ height: TITLE }}
        title="What the layers under the correction come to"
      >
        Below
      </p>
      <ul className="pb-1">
        {card.channels.map((channel) => (
          <li key={channel.id} className="relative flex items-center justify-end gap-1.5 px-2" style={{ height: LINE }}>
            <span className="truncate text-[11px]">{channel.title.toLowerCase()}</span>
            <span className="rounded border border-rule bg-raised px-1 font-mono text-[9.5px] leading-[13px] text-ink-soft">
              {channel.type}
            </span>
            <Handle
              type="source"
              id={`out:${channel.id}`}
              position={Position.Right}
              role="img"
              aria-label={`Below, ${channel.title.toLowerCase()}`}
            />
          </li>
        ))}
      </ul>
    </div>
  )
}

/** Where wires end: what a layer takes in. */
export function OutputCardView({ id, data }: NodeProps) {
  const { card, size } = data as OutputCardData
  usePorts(
    id,
    card.ports.map((port) => port.id),
  )
  const actions = useActions()
  return (
    <div className="rounded-md border border-rule-strong bg-ground shadow-sm" style={{ width: size.width }}>
      <p className="truncate px-2 pt-1 font-semibold" style={{ height: TITLE }}>
        {card.title}
      </p>
      <ul className="pb-1">
        {card.ports.map((port) => (
          <li key={port.id} className="relative flex items-center gap-1.5 px-2" style={{ height: LINE }}>
            <Handle
              type="target"
              id={`in:${port.id}`}
              position={Position.Left}
              role="img"
              aria-label={`Into ${card.title}, ${port.word}`}
            />
            <span className="rounded border border-rule bg-raised px-1 font-mono text-[9.5px] leading-[13px] text-ink-soft">
              {port.type}
            </span>
            <button
              type="button"
              className="nodrag truncate text-[11px] hover:underline"
              onClick={() => actions.select(port.place)}
            >
              {port.word}
            </button>
          </li>
        ))}
      </ul>
    </div>
  )
}
