import { Plus, Trash2 } from 'lucide-react'
import type { Channel } from '#core/document/channels'
import { findPlain } from '#core/document/edits/layers'
import type { Operation } from '#core/document/edits/operations'
import { operationsOf } from '#core/document/edits/operations'
import { fittingPort } from '#core/graph/port-types'
import { registry } from '#core/nodes/registry.generated'
import { Button } from '../../ui/button'
import { Menu, MenuItem } from '../../ui/menu'
import { NumberBox } from '../../ui/number-box'
import { SortableList } from '../../ui/sortable-list'
import { ToolButton } from '../../ui/tool-button'
import { useActions, useApplied, useDocument, useView } from '../../session/material'
import type { Selection } from '../../session/view'
import { nodeTitle, sourceInWords } from '../../session/words/source-words'
import { Swatch } from '../../session/parts/swatch'
import { Switches } from './switches'
import { useTarget } from './target'

/** What corrections are mostly made of: a node, what it is called here, and what it is for. */
const READY: readonly { type: string; word: string; about: string; params?: object }[] = [
  { type: 'adjust-colour', word: 'Hue, saturation, brightness, contrast', about: 'even to the eye' },
  { type: 'levels', word: 'Levels', about: 'black, white and middle' },
  { type: 'curve', word: 'Curve', about: 'drawn by hand' },
  { type: 'sharpen', word: 'Sharpen', about: 'crisper detail' },
  { type: 'compress-range', word: 'Range', about: 'squeezed around a middle, as of roughness' },
  { type: 'blur', word: 'Blur', about: 'softer' },
  { type: 'invert', word: 'Invert', about: 'light for dark' },
]

/** A correction's operations on a channel, in the order in which they are done, the first on what lies below. */
export function Operations({ layer, channel }: { layer: string; channel: Channel }) {
  const actions = useActions()
  const document = useDocument()
  const chosen = useView((view) => view.selectedNodes)
  const place = { kind: 'cell', layer, channel: channel.id } as const
  const { start, list } = operationsOf(document, registry, place)
  const filled = findPlain(document, layer)?.cells[channel.id] !== undefined
  const begins = start ?? (filled ? null : ({ backdrop: channel.id } as const))
  return (
    <section aria-label="Operations" className="flex flex-col gap-1.5">
      <header className="flex items-center gap-2">
        <h4 className="font-semibold">Operations</h4>
        <p className="min-w-0 flex-1 truncate text-ink-soft">
          {begins ? `on ${sourceInWords(document, begins)}` : '▲ the first has nothing to work on'}
        </p>
        <AddOperation place={place} channel={channel} />
      </header>
      {list.length === 0 ? (
        <p className="text-ink-soft">None yet: what lies below stays as it is.</p>
      ) : (
        <SortableList
          label="Operations, in order"
          rows={list.map((operation, index) => ({
            key: operation.node,
            word: nodeTitle(document, operation.node),
            chosen: chosen.includes(operation.node),
            shows: <OperationRow operation={operation} number={index + 1} />,
          }))}
          onMove={(from, to) => actions.moveOperation(place, from, to)}
        />
      )}
    </section>
  )
}

function AddOperation({ place, channel }: { place: Selection; channel: Channel }) {
  const actions = useActions()
  const fitting = READY.filter(({ type }) => fittingPort(registry.get(type)!, channel.type, 'input'))
  return (
    <Menu
      trigger={
        <Button>
          <Plus size={13} aria-hidden /> Operation
        </Button>
      }
    >
      {fitting.map(({ type, word, about, params }) => (
        <MenuItem key={word} onSelect={() => actions.addNode(type, { into: place, params })}>
          {word} <span className="text-ink-soft">· {about}</span>
        </MenuItem>
      ))}
      <MenuItem onSelect={() => actions.openPalette({ kind: 'nodes', into: place })}>Any node …</MenuItem>
    </Menu>
  )
}

function OperationRow({ operation: { node: id, port, input }, number }: { operation: Operation; number: number }) {
  const actions = useActions()
  const document = useDocument()
  const node = document.nodes[id]!
  const title = nodeTitle(document, id)
  return (
    <>
      <button
        type="button"
        onClick={() => actions.selectNodes([id])}
        title="Open its settings"
        className={`flex min-w-0 flex-1 items-center gap-2 text-left ${node.off ? 'line-through' : ''}`}
      >
        <span className="w-3 text-right font-mono text-note text-ink-soft">{number}</span>
        <Swatch output={{ kind: 'port', node: id, port }} className="size-6 shrink-0 rounded-sm" />
        <span className="truncate">{title}</span>
        {input === null && <span className="shrink-0 text-note text-ink-soft">▲ begins anew</span>}
      </button>
      <Effect id={id} title={title} />
      <Switches what={{ node: id }} name={title} />
      <ToolButton icon={Trash2} word={`Delete ${title}`} onClick={() => actions.deleteNodes([id])} />
    </>
  )
}

/** How much of a node shows over what comes into it. */
function Effect({ id, title }: { id: string; title: string }) {
  const amount = useApplied(({ nodes }) => nodes[id]?.amount) ?? 1
  const bound = useTarget('Effect', { node: id, part: 'effect', field: 'amount' })
  return (
    <NumberBox
      label={`Effect of ${title}`}
      min={0}
      max={1}
      standard={1}
      value={amount}
      onDrag={bound.drag}
      onDrop={bound.drop}
      className="w-16 shrink-0"
    />
  )
}
