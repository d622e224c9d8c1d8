import { documentOf } from '#core/testing/examples'
import { screenOf } from '../../session/testing/screen'
import type { CommandEntry } from '../../session/commands'
import { commandsFor } from './commands'
import { SHORTCUTS } from './shortcuts'

const start = documentOf({
  nodes: { noise: { type: 'noise' }, soft: { type: 'blur', inputs: { source: 'noise.grey' } } },
  layers: [
    { kind: 'layer', id: 'base', name: 'Base', cells: { colour: { source: { value: '#808080' } } } },
    { kind: 'group', id: 'all', name: 'All', layers: [] },
    {
      kind: 'layer',
      id: 'rust',
      name: 'Rust',
      mask: [{ source: { node: 'noise.grey' } }],
      cells: { height: { source: { node: 'soft.result' } } },
    },
  ],
})

/** A screen, what can be done on it, and the doing of one thing by its words. */
function finder() {
  const screen = screenOf(start)
  const themes: string[] = []
  const list = (): CommandEntry[] => commandsFor(screen, 'soot', (theme) => themes.push(theme))
  const run = (words: string): void => {
    const found = list().find((one) => one.words === words)
    if (!found)
      throw new Error(
        `"${words}" cannot be done; there are: ${list()
          .map((one) => one.words)
          .join(', ')}`,
      )
    found.run()
  }
  return { ...screen, themes, list, run, words: () => list().map((one) => one.words) }
}

it('offers what can be done now, and no more', () => {
  const { words, actions, run } = finder()
  expect(words().filter((one) => /^(Undo|Redo|Delete|Rename|Show what|End)/.test(one))).toEqual([])
  actions.select({ kind: 'layer', layer: 'rust' })
  expect(words()).toEqual(expect.arrayContaining(['Delete the layer', 'Rename the layer', 'Move the layer down']))
  run('Delete the layer')
  expect(words()).toContain('Undo Delete Rust')
  run('Undo Delete Rust')
  expect(words()).toContain('Redo Delete Rust')
  expect(words()).not.toContain('Undo Delete Rust')
})

it('names no two things alike', () => {
  const { words, actions } = finder()
  actions.select({ kind: 'cell', layer: 'rust', channel: 'height' })
  expect(new Set(words()).size).toBe(words().length)
})

it('tells only keys that the list of shortcuts tells too', () => {
  const { list, actions, view } = finder()
  const told = SHORTCUTS.flatMap(({ keys }) => keys.flatMap(([key]) => key.split(/,\s*|\s{2,}/)))
  const seen = new Set<string>()
  for (const prepare of [
    () => actions.select({ kind: 'cell', layer: 'rust', channel: 'height' }),
    () => view.setState({ selectedNodes: ['soft'] }),
    () => actions.deleteLayer('base'),
  ]) {
    prepare()
    for (const { keys } of list()) if (keys) seen.add(keys)
  }
  expect(seen.size).toBeGreaterThan(9)
  for (const keys of seen) expect([keys, told.includes(keys)]).toEqual([keys, true])
})

it('every command of a chosen layer, cell and node does what it says', () => {
  const { run, actions, document, view } = finder()
  actions.select({ kind: 'layer', layer: 'rust' })
  run('Duplicate the layer')
  expect(document().layers.map(({ id }) => id)).toEqual(['base', 'all', 'rust', 'rust-2'])
  run('Move the layer down')
  expect(document().layers.map(({ id }) => id)).toEqual(['base', 'all', 'rust-2', 'rust'])
  run('Move the layer into the group beside it')
  expect(document().layers.map(({ id }) => id)).toEqual(['base', 'all', 'rust'])
  run('Rename the layer')
  expect(view.getState().renaming).toBe('rust-2')
  actions.select({ kind: 'cell', layer: 'rust', channel: 'height' })
  run('Switch the selection off or on')
  expect(document().layers.at(-1)).toMatchObject({ cells: { height: { off: true } } })
  view.setState({ selectedNodes: ['soft'] })
  run('Delete the selected nodes')
  // The duplicate has nodes of its own.
  expect(Object.keys(document().nodes)).toEqual(['noise', 'noise-2', 'soft-2'])
  run('Add a correction')
  run('Add a group')
  expect(document().layers.filter(({ kind }) => kind === 'group')).toHaveLength(2)
})

it('the stage, the theme, the walk and the panes follow', () => {
  const { run, view, themes } = finder()
  run('Flat view, 3 × 3 tiles')
  expect(view.getState().stage).toMatchObject({ mode: 'flat', repeat: 3 })
  run('Show on a cylinder')
  expect(view.getState().stage).toMatchObject({ mode: 'model', shape: 'cylinder' })
  run('Light: workshop')
  expect(view.getState().stage.environment).toBe('workshop')
  run('Preview at 256')
  expect(view.getState().width).toBe(256)
  run('Use the soot theme')
  expect(themes).toEqual(['soot'])
  run('Dials board')
  expect(view.getState().tab).toBe('dials')
  run('Shortcuts')
  expect(view.getState().help).toBe('shortcuts')
  run('A first material, step by step')
  expect(view.getState().guide).toBeTruthy()
})
