import { channelOutput } from '#core/document/address'
import type { OptionalChannel } from '#core/document/channels'
import { channelsOf, optionalChannel } from '#core/document/channels'
import { circleIn } from '#core/compose/circle'
import type { Cell, MaskEntry, MaterialDocument, Source } from '#core/document/document'
import {
  addChannel,
  addMaskEntry,
  addOptionalChannel,
  clearCell,
  deleteChannel,
  deleteMaskEntry,
  findLayer,
  findPlain,
  joinEntry,
  moveMaskEntry,
  setCell,
} from '#core/document/edits/layers'
import { copyCell, duplicateEntry, linkCell } from '#core/document/edits/copies'
import { maskSource } from '#core/document/edits/nodes'
import { fitOf } from '#core/graph/port-types'
import { registry } from '#core/nodes/registry.generated'
import { sameOutput } from '#core/texture/stage-output'
import { sourceType, typeAt, writeSource } from '../places'
import type { Selection } from '../view'
import { outputOf } from '../view'
import type { ActionContext } from './context'
import { circleAfter } from './taps'

/** What cells, masks and channels take in. */
export function cellActions(context: ActionContext, deleteLayer: (layer: string) => void) {
  const { get, document, notify, edit, nameOf, select, setStage, openPalette } = context
  const actions = {
    setCell(layer: string, channel: string, change: Partial<Cell>, label = 'Cell'): void {
      edit(`${label} of ${nameOf(layer)}`, (draft) => setCell(draft, layer, channel, change))
    },
    fillCell(layer: string, channel: string): void {
      const type = channelsOf(document()).find((one) => one.id === channel)?.type
      if (type === 'normal') return openPalette({ kind: 'nodes', into: { kind: 'cell', layer, channel } })
      const known = optionalChannel(channel)
      const value = type === 'colour' ? '#8a8378' : known?.usual ? known.backdrop : 0.5
      actions.setCell(layer, channel, { source: { value } }, 'Fill cell')
    },
    clear(place: Selection): void {
      if (place.kind === 'cell')
        edit(`Clear cell of ${nameOf(place.layer)}`, (draft) => clearCell(draft, place.layer, place.channel))
      else if (place.kind === 'mask') {
        const { layer, entry } = place
        edit(`Clear mask of ${nameOf(layer)}`, (draft) => {
          if (entry !== null) return deleteMaskEntry(draft, layer, entry)
          for (let i = (findLayer(draft, layer)?.mask.length ?? 0) - 1; i >= 0; i--) deleteMaskEntry(draft, layer, i)
        })
        if (entry !== null) select({ kind: 'mask', layer, entry: null })
      } else if (place.kind === 'layer') deleteLayer(place.layer)
    },
    copyCell(from: { layer: string; channel: string }, to: { layer: string; channel: string }, link: boolean): void {
      if (from.layer === to.layer && from.channel === to.channel) return
      const target = findLayer(document(), to.layer)
      if (!target || target.kind === 'group') return notify('A group has no cells; choose a layer in it.')
      const fault = misfit(from, to)
      if (fault) return notify(fault)
      edit(link ? 'Link cell' : 'Copy cell', (draft) => (link ? linkCell : copyCell)(draft, from, to))
      select({ kind: 'cell', ...to })
    },
    /** A cell dropped on a cell is copied or linked there; on a mask what it reads becomes one more entry. */
    putCell(from: { layer: string; channel: string }, place: Selection, link: boolean): void {
      if (place.kind === 'cell') return actions.copyCell(from, place, link)
      const cell = findPlain(document(), from.layer)?.cells[from.channel]
      if (!cell || place.kind !== 'mask') return
      const type = sourceType(document(), cell.source)
      const fit = type && fitOf(type, 'grey')
      if (fit?.kind === 'refused') return notify(fit.reason)
      if ('value' in cell.source && typeof cell.source.value !== 'number')
        return notify('A mask takes grey; this cell holds one colour.')
      actions.addMaskEntry(place.layer, { ...cell.source })
    },
    /** A layer's mask becomes the source of a cell, or one more entry of another mask. */
    putMask(from: string, place: Selection): void {
      const at: Selection = place.kind === 'mask' ? { ...place, entry: null } : place
      if (!('layer' in at) || at.kind === 'layer' || (at.kind === 'mask' && at.layer === from)) return
      if (findLayer(document(), from)?.mask.length === 0)
        return notify(`${nameOf(from)} has no mask; it shows everywhere.`)
      const target = findLayer(document(), at.layer)
      if (at.kind === 'cell' && target?.kind === 'group') return notify('A group has no cells; choose a layer in it.')
      const grey = fitOf('grey', typeAt(document(), at))
      if (grey.kind === 'refused') return notify(grey.reason)
      const put = (draft: MaterialDocument): void => writeSource(draft, at, maskSource(draft, from))
      const next = structuredClone(document())
      put(next)
      const circle = circleIn(next, registry, outputOf(next, at))
      if (circle) return notify(circle)
      edit(`Mask of ${nameOf(from)} into ${nameOf(at.layer)}`, put)
      select(at)
    },
    addMaskEntry(layer: string, source: MaskEntry['source']): void {
      edit(`Add to mask of ${nameOf(layer)}`, (draft) => void addMaskEntry(draft, layer, source))
      select({ kind: 'mask', layer, entry: (findLayer(document(), layer)?.mask.length ?? 1) - 1 })
    },
    /** Adds an entry with the nodes that it is built of. */
    addBuiltEntry(layer: string, word: string, build: (draft: MaterialDocument) => Source): void {
      edit(`Add ${word} to mask of ${nameOf(layer)}`, (draft) => void addMaskEntry(draft, layer, build(draft)))
      select({ kind: 'mask', layer, entry: (findLayer(document(), layer)?.mask.length ?? 1) - 1 })
    },
    /** Copies an entry to just above it, with nodes of its own. */
    duplicateEntry(layer: string, entry: number): void {
      edit(`Duplicate entry of ${nameOf(layer)}`, (draft) => duplicateEntry(draft, layer, entry))
      select({ kind: 'mask', layer, entry: entry + 1 })
    },
    joinEntry(layer: string, entry: number, joined: boolean): void {
      edit(joined ? `Group entries of ${nameOf(layer)}` : `Ungroup entry of ${nameOf(layer)}`, (draft) =>
        joinEntry(draft, layer, entry, joined),
      )
    },
    moveMaskEntry(layer: string, from: number, to: number): void {
      edit(`Reorder mask of ${nameOf(layer)}`, (draft) => moveMaskEntry(draft, layer, from, to))
      select({ kind: 'mask', layer, entry: to })
    },
    /** Writes the source of a cell or mask entry. */
    setSource(place: Selection, source: Source): void {
      if (!('layer' in place)) return
      const write = (draft: MaterialDocument): void => writeSource(draft, place, source)
      const circle = circleAfter(document(), write, source, outputOf(document(), place))
      if (circle) return notify(circle)
      edit(`Source in ${nameOf(place.layer)}`, write)
    },
    addChannel(title: string, type: 'grey' | 'colour'): void {
      const taken = channelsOf(document()).map(({ id }) => id)
      edit(`Add channel ${title}`, (draft) => void addChannel(draft, title, type, taken))
    },
    addOptionalChannel(channel: OptionalChannel): void {
      edit(`Add channel ${channel.title}`, (draft) => addOptionalChannel(draft, channel))
    },
    deleteChannel(id: string): void {
      edit('Delete channel', (draft) => deleteChannel(draft, id))
      if (sameOutput(get().stage.shown, channelOutput(id))) setStage({ shown: null })
      select(null)
    },
  }

  /** Why a cell cannot land in another channel; null where it can. */
  function misfit(from: { layer: string; channel: string }, to: { channel: string }): string | null {
    const cell = findPlain(document(), from.layer)?.cells[from.channel]
    if (!cell) return null
    const type = sourceType(document(), cell.source)
    const fit = type && fitOf(type, typeAt(document(), { kind: 'cell', layer: '', channel: to.channel }))
    return fit && fit.kind === 'refused' ? fit.reason : null
  }
  return actions
}
