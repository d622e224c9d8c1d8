import { parseDocument } from '#core/document/document'
import { screenOf } from '../../session/testing/screen'
import type { Selection } from '../../session/view'
import { sheetMenu } from './sheet-menu'

const start = parseDocument({
  format: 'amber-grist/material',
  version: 2,
  name: 'Wall',
  domain: { kind: 'tile', metres: [1, 1] },
  layers: ['base', 'bumps'].map((id) => ({
    kind: 'layer',
    id,
    name: id,
    cells: { height: { source: { value: 0.4 } } },
  })),
})
const screen = () => screenOf(start)

const words = (one: ReturnType<typeof screen>, place: Selection): string[] =>
  sheetMenu(one.document(), one.actions, one.view.getState(), place).flatMap((item) =>
    item === 'rule' ? [] : [item.keys ? `${item.word} (${item.keys})` : item.word],
  )
const run = (one: ReturnType<typeof screen>, place: Selection, word: string): void => {
  for (const item of sheetMenu(one.document(), one.actions, one.view.getState(), place))
    if (item !== 'rule' && item.word === word) return item.run()
  throw new Error(`no item ${word}`)
}

test('layers, cells and channels are exported to an image editor by their menus', () => {
  const one = screen()
  const places: [Selection, object][] = [
    [{ kind: 'layer', layer: 'base' }, { layers: { kind: 'layer', layer: 'base' } }],
    [{ kind: 'channel', channel: 'height' }, { layers: { kind: 'channel', channel: 'height' } }],
    [
      { kind: 'cell', layer: 'base', channel: 'height' },
      { picture: { kind: 'cell', layer: 'base', channel: 'height' }, title: 'base, Height' },
    ],
  ]
  for (const [place, subject] of places) {
    run(one, place, 'Export to an image editor …')
    expect(one.view.getState().exchange).toEqual({ export: subject })
  }
})

test('a layer’s menu has its keys beside the words, and speaks of all that are chosen', () => {
  const one = screen()
  const layer = { kind: 'layer', layer: 'base' } as const
  one.actions.select(layer)
  expect(words(one, layer)).toEqual(expect.arrayContaining(['Rename (F2)', 'Group the layer (G)', 'Switch off (O)']))
  one.actions.alsoSelect('bumps')
  expect(words(one, layer)).toEqual(expect.arrayContaining(['Duplicate 2 layers (Ctrl D)', 'Delete 2 layers (Delete)']))
  run(one, layer, 'Group 2 layers')
  expect(one.document().layers.map(({ kind }) => kind)).toEqual(['group'])
  const inside = { kind: 'layer', layer: 'base' } as const
  expect(words(one, inside)).toContain('Out of the group (Alt ←)')
})

test('a cell’s menu fits what is in it', () => {
  const one = screen()
  const empty = { kind: 'cell', layer: 'base', channel: 'metallic' } as const
  expect(words(one, empty)).toEqual(['Put a value in (Enter)', 'New node into it (N)', 'Paste (Ctrl V)'])
  one.actions.addMaskEntry('base', { value: 0.5 })
  expect(words(one, empty)).toContain('Use this layer’s mask')
  one.actions.select({ kind: 'cell', layer: 'base', channel: 'height' })
  expect(one.actions.copyChosen('sheet')).toContain('"kind": "cell"')
  expect(words(one, empty)).toContain('Paste the copied cell linked (Ctrl Shift V)')
  one.actions.setCell('base', 'metallic', { source: { value: 1 } })
  expect(words(one, empty)).toEqual(
    expect.arrayContaining(['Edit (Enter)', 'Clear the cell (Delete)', 'Switch off (O)']),
  )
  run(one, empty, 'Switch off')
  expect(words(one, empty)).toContain('Switch on (O)')
})

test('a mask’s and a channel’s', () => {
  const one = screen()
  const mask = { kind: 'mask', layer: 'base', entry: null } as const
  expect(words(one, mask)).toEqual(['Add a mask (Enter)', 'New node into it (N)', 'Paste (Ctrl V)'])
  one.actions.addMaskEntry('base', { value: 0.5 })
  expect(words(one, mask)).toEqual(expect.arrayContaining(['Edit (Enter)', 'Copy (Ctrl C)', 'Clear the mask (Delete)']))
  expect(words(one, { kind: 'channel', channel: 'height' })[0]).toBe('Show this channel alone (Enter)')
  expect(words(one, { kind: 'layer', layer: 'gone' })).toEqual([])
})
