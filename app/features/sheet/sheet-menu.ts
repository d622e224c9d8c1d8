import type { MaterialDocument } from '#core/document/document'
import { channelsOf } from '#core/document/channels'
import { findLayer, findPlain, locateLayer } from '#core/document/edits/layers'
import { sameToggleable, toggleable } from '#core/document/edits/focus'
import type { Actions } from '../../session/actions/actions'
import { nameableAt } from '../../session/actions/taps'
import { openEditor } from '../../session/keyboard-focus'
import type { Selection, View } from '../../session/view'
import { readClipboard, writeClipboard } from '../../session/clipboard'
import { outputOf, toggleableOf } from '../../session/view'
import type { ContextItem } from '../../ui/context-menu'

const channelTitle = (document: MaterialDocument, channel: string): string =>
  channelsOf(document).find(({ id }) => id === channel)?.title ?? channel

/** What can be done with a place of the sheet, with the keys that do it. */
export function sheetMenu(
  document: MaterialDocument,
  actions: Actions,
  { clip, solo }: Pick<View, 'clip' | 'solo'>,
  place: Selection,
): ContextItem[] {
  const show: ContextItem = {
    word: 'Show large on the stage',
    keys: 'Space',
    run: () => actions.showSelection(place),
  }
  if (place.kind === 'channel')
    return [
      { word: 'Show this channel alone', keys: 'Enter', run: () => actions.isolate(place.channel) },
      show,
      'rule',
      {
        word: 'Export to an image editor …',
        run: () => actions.exportToEditor({ layers: { kind: 'channel', channel: place.channel } }),
      },
    ]
  const layer = findLayer(document, place.layer)
  if (!layer) return []
  const edit: ContextItem = { word: 'Edit', keys: 'Enter', run: () => (actions.select(place), openEditor()) }
  const what = toggleableOf(place)
  const switches: ContextItem[] = what
    ? [
        {
          word: toggleable(document, what)?.off ? 'Switch on' : 'Switch off',
          keys: 'O',
          run: () => actions.toggleEnabled(what),
        },
        {
          word: sameToggleable(solo, what) ? 'No longer alone' : 'Show alone',
          keys: 'A',
          run: () => actions.toggleSolo(what),
        },
      ]
    : []
  const copying: ContextItem[] = [
    { word: 'Copy', keys: 'Ctrl C', run: () => void writeClipboard(actions.copyChosen('sheet'), actions.notify) },
    { word: 'Cut', keys: 'Ctrl X', run: () => void writeClipboard(actions.copyChosen('sheet', true), actions.notify) },
  ]
  const pasting: ContextItem[] = [
    { word: 'Paste', keys: 'Ctrl V', run: () => void readClipboard(actions.pasteText, actions.notify) },
  ]
  const exportAlone = (title: string): ContextItem => ({
    word: 'Export to an image editor …',
    run: () => actions.exportToEditor({ picture: outputOf(document, place), title }),
  })
  const naming: ContextItem[] = [
    { word: 'Name the result, to be read anywhere', keys: 'T', run: () => actions.nameResult(nameableAt(place)!) },
  ]
  if (place.kind === 'mask') {
    const many = layer.mask.length > 0
    return [
      { word: many ? 'Edit' : 'Add a mask', keys: 'Enter', run: () => (actions.select(place), openEditor()) },
      {
        word: 'New node into it',
        keys: 'N',
        run: () => actions.openPalette({ kind: 'nodes', into: { ...place, entry: null } }),
      },
      ...(many ? [...naming, ...copying] : []),
      ...pasting,
      ...(many ? [exportAlone(`${layer.name}, mask`)] : []),
      ...(many
        ? [show, 'rule' as const, { word: 'Clear the mask', keys: 'Delete', run: () => actions.clear(place) }]
        : []),
    ]
  }
  if (place.kind === 'cell') {
    if (layer.kind === 'group') return [show]
    const cell = findPlain(document, place.layer)?.cells[place.channel]
    const linked: ContextItem[] = clip
      ? [{ word: 'Paste the copied cell linked', keys: 'Ctrl Shift V', run: () => actions.copyCell(clip, place, true) }]
      : []
    const node: ContextItem = {
      word: 'New node into it',
      keys: 'N',
      run: () => actions.openPalette({ kind: 'nodes', into: place }),
    }
    if (!cell)
      return [
        {
          word: 'Put a value in',
          keys: 'Enter',
          run: () => (actions.fillCell(place.layer, place.channel), openEditor()),
        },
        node,
        ...(layer.mask.length > 0
          ? [{ word: 'Use this layer’s mask', run: () => actions.putMask(place.layer, place) }]
          : []),
        ...pasting,
        ...linked,
      ]
    return [
      edit,
      node,
      show,
      ...naming,
      'rule',
      ...copying,
      ...pasting,
      ...linked,
      exportAlone(`${layer.name}, ${channelTitle(document, place.channel)}`),
      'rule',
      ...switches,
      { word: 'Clear the cell', keys: 'Delete', run: () => actions.clear(place) },
    ]
  }
  const id = place.layer
  const several = actions.layersWith(id).length
  const these = several > 1 ? `${several} layers` : 'the layer'
  const inGroup = locateLayer(document.layers, id)?.group
  return [
    edit,
    { word: 'Rename', keys: 'F2', run: () => actions.setView({ renaming: id }) },
    {
      word: layer.mask.length > 0 ? 'Edit the mask' : 'Add a mask',
      run: () => actions.select({ kind: 'mask', layer: id, entry: null }),
    },
    'rule',
    { word: `Duplicate ${these}`, keys: 'Ctrl D', run: () => actions.duplicateLayer(id) },
    { word: `Duplicate ${these} linked`, keys: 'Ctrl Shift D', run: () => actions.duplicateLayer(id, true) },
    ...copying,
    ...pasting,
    {
      word: 'Export to an image editor …',
      run: () => actions.exportToEditor({ layers: { kind: 'layer', layer: id } }),
    },
    { word: `Group ${these}`, keys: 'G', run: () => actions.wrapInGroup(id) },
    { word: 'Move up', keys: 'Alt ↑', run: () => actions.stepLayer(id, 1) },
    { word: 'Move down', keys: 'Alt ↓', run: () => actions.stepLayer(id, -1) },
    inGroup
      ? { word: 'Out of the group', keys: 'Alt ←', run: () => actions.leaveGroup(id) }
      : { word: 'Into the group beside it', keys: 'Alt →', run: () => actions.enterGroup(id) },
    'rule',
    ...switches,
    { word: `Delete ${these}`, keys: 'Delete', run: () => actions.deleteLayer(id) },
  ]
}
