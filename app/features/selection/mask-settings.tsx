import { CopyPlus, Group, Maximize2, Plus, Trash2, Ungroup } from 'lucide-react'
import { findLayer } from '#core/document/edits/layers'
import type { Layer, MaskEntry } from '#core/document/document'
import { isGrouped, startOfGroup } from '#core/document/mask-groups'
import { choice, toggle } from '#core/graph/parameters'
import { BLEND_MODES } from '#core/kernels/blend'
import { Button } from '../../ui/button'
import { Menu, MenuItem } from '../../ui/menu'
import { SortableList } from '../../ui/sortable-list'
import { ToolButton } from '../../ui/tool-button'
import { useActions, useApplied, useDocument } from '../../session/material'
import type { Selection } from '../../session/view'
import { blendWord } from '../../session/words/blend-words'
import { Swatch } from '../../session/parts/swatch'
import { ParameterField } from './parameter-field'
import { READY_MASKS } from './ready-masks'
import { SourceField } from './source-field'
import { Switches } from './switches'
import { sourceInWords } from '../../session/words/source-words'
import { Values } from './values'
import { AMOUNT, SettingsFrame } from './settings-frame'

export function MaskSettings({ layer: id, entry }: { layer: string; entry: number | null }) {
  const actions = useActions()
  const document = useDocument()
  const layer = findLayer(document, id)!
  const only = layer.mask.length === 1 ? 0 : null
  const selected = entry !== null && layer.mask[entry] ? entry : only
  const add = (place: Selection): void => actions.openPalette({ kind: 'nodes', into: place })
  const top = layer.mask.length - 1
  const next: Selection = { kind: 'mask', layer: id, entry: layer.mask.length }
  return (
    <SettingsFrame
      title={`${layer.name} · mask`}
      about={layer.mask.length === 0 ? 'none: the layer shows everywhere' : 'the lowest entry comes first'}
      tools={
        <>
          {layer.mask.length > 0 && (
            <ToolButton
              icon={Maximize2}
              word="Show on the stage (Space)"
              onClick={() => actions.showSelection({ kind: 'mask', layer: id, entry: null })}
            />
          )}
          <Button onClick={() => actions.addMaskEntry(id, { value: 1 })}>
            <Plus size={13} aria-hidden /> Value
          </Button>
          <Button variant={layer.mask.length === 0 ? 'main' : 'plain'} onClick={() => add(next)}>
            <Plus size={13} aria-hidden /> New node
          </Button>
          <Menu
            trigger={
              <Button>
                <Plus size={13} aria-hidden /> Ready-made
              </Button>
            }
          >
            {READY_MASKS.map((ready) => (
              <MenuItem key={ready.word} onSelect={() => actions.addBuiltEntry(id, ready.word, ready.build)}>
                {ready.word} <span className="text-ink-soft">· {ready.about}</span>
              </MenuItem>
            ))}
          </Menu>
        </>
      }
    >
      {layer.mask.length > 0 && (
        <SortableList
          label="Mask entries, topmost first"
          rows={layer.mask
            .map((one, index) => ({
              key: `entry ${index}`,
              word: `entry ${index + 1}`,
              chosen: selected === index,
              shows: <MaskEntryRow layer={layer} entry={one} index={index} selected={selected === index} />,
            }))
            .reverse()}
          onMove={(from, to) => actions.moveMaskEntry(id, top - from, top - to)}
        />
      )}
      {selected !== null && <EntrySettings layer={layer} index={selected} />}
      {layer.mask.length > 0 && <Values />}
    </SettingsFrame>
  )
}

function MaskEntryRow({
  layer,
  entry,
  index,
  selected,
}: {
  layer: Layer
  entry: MaskEntry
  index: number
  selected: boolean
}) {
  const actions = useActions()
  const document = useDocument()
  const word = sourceInWords(document, entry.source)
  const joined = index > 0 && entry.joined === true
  return (
    <>
      <button
        type="button"
        aria-pressed={selected}
        aria-label={`Entry ${index + 1}: ${word}, ${blendWord(entry.mode)}${entry.invert ? ', inverted' : ''}${joined ? ', grouped with the entry under it' : ''}`}
        onClick={() => actions.select({ kind: 'mask', layer: layer.id, entry: index })}
        className={`flex min-w-0 flex-1 items-center gap-2 text-left ${isGrouped(layer.mask, index) ? 'border-l-2 border-accent pl-2' : ''} ${joined ? 'ml-3' : ''} ${entry.off ? 'line-through' : ''}`}
      >
        <Swatch output={{ kind: 'entry', layer: layer.id, entry: index }} className="size-6 shrink-0 rounded-full" />
        <span className="truncate">{word}</span>
        <span className="shrink-0 font-mono text-note text-ink-soft">
          {index === 0 && entry.mode === 'multiply' ? '' : blendWord(entry.mode)}
          {entry.amount < 1 && ` ${Math.round(entry.amount * 100)} %`}
          {entry.invert && ' inverted'}
        </span>
      </button>
      <Switches what={{ layer: layer.id, entry: index }} name={`entry ${index + 1}`} />
      {index > 0 && (
        <ToolButton
          icon={joined ? Ungroup : Group}
          word={
            joined ? `Take entry ${index + 1} out of its group` : `Group entry ${index + 1} with the entry under it`
          }
          tip={
            joined
              ? 'Out of the group'
              : 'Group with the entry under it: together they become one mask, which goes in by the mode and amount of the lowest'
          }
          onClick={() => actions.joinEntry(layer.id, index, !joined)}
        />
      )}
      <ToolButton
        icon={CopyPlus}
        word={`Duplicate entry ${index + 1}`}
        onClick={() => actions.duplicateEntry(layer.id, index)}
      />
      <ToolButton
        icon={Trash2}
        word={`Delete entry ${index + 1}`}
        onClick={() => actions.clear({ kind: 'mask', layer: layer.id, entry: index })}
      />
    </>
  )
}

function EntrySettings({ layer, index }: { layer: Layer; index: number }) {
  const entry = layer.mask[index]!
  const now = useApplied((one) => findLayer(one, layer.id)?.mask[index]) ?? entry
  const target = { layer: layer.id, entry: index } as const
  return (
    <>
      <SourceField
        place={{ kind: 'mask', layer: layer.id, entry: index }}
        source={entry.source}
        type="grey"
        valueTarget={{ ...target, field: 'value' }}
      />
      <ParameterField
        name="mode"
        parameter={choice({
          default: 'multiply',
          options: BLEND_MODES,
          help: isGrouped(layer.mask, index)
            ? startOfGroup(layer.mask, index) === index
              ? 'How its group is combined with the entries under it; the entries of the group come together first.'
              : 'How it is combined with the entries of its group under it.'
            : 'How it is combined with the entries under it; under the lowest one all is white.',
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
        parameter={toggle({ default: false, help: 'Swaps light and dark.' })}
        target={{ ...target, field: 'invert' }}
        value={now.invert}
        label="Invert"
      />
    </>
  )
}
