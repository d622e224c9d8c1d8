import type { Actions } from '../../session/actions/actions'
import type { Material } from '../../session/material'
import type { CommandEntry } from '../../session/commands'
import { stageCommands } from '../../session/commands'
import { toggleableOf } from '../../session/view'

/** Every command of the material screen that can be done now. */
export function commandsFor(
  { actions, control, view }: Pick<Material, 'control' | 'view'> & { actions: Actions },
  other: 'linen' | 'soot',
  setTheme: (theme: 'linen' | 'soot') => void,
): CommandEntry[] {
  const { selection, selectedNodes, compared, wholeGraph } = view.getState()
  const [undo, redo] = [control.undoable(), control.redoable()]
  const layer = actions.selectedLayer()
  const what = selectedNodes[0] ? { node: selectedNodes[0] } : selection && toggleableOf(selection)
  const list: (CommandEntry | false | null | undefined)[] = [
    undo !== null && { words: `Undo ${undo}`, keys: 'Ctrl Z', run: actions.undo },
    redo !== null && { words: `Redo ${redo}`, keys: 'Ctrl Shift Z, Ctrl Y', run: actions.redo },
    { words: 'Add a layer of a plain colour', keys: 'L', run: () => actions.addLayer('layer', true) },
    { words: 'Add an empty layer', run: () => actions.addLayer('layer') },
    { words: 'Add a correction', keys: 'C', run: () => actions.addLayer('correction') },
    { words: 'Add a group', run: () => actions.addLayer('group') },
    layer !== null && { words: 'Group the layer', keys: 'G', run: () => actions.wrapInGroup(layer) },
    layer !== null && {
      words: 'Export the layer to an image editor …',
      run: () => actions.exportToEditor({ layers: { kind: 'layer', layer } }),
    },
    { words: 'Import from an image editor …', run: () => actions.importFromEditor(null) },
    { words: 'Add a node …', keys: 'N', run: () => actions.openPalette({ kind: 'nodes' }) },
    layer !== null && { words: 'Duplicate the layer', keys: 'Ctrl D', run: () => actions.duplicateLayer(layer) },
    layer !== null && { words: 'Delete the layer', keys: 'Delete', run: () => actions.deleteLayer(layer) },
    layer !== null && { words: 'Rename the layer', keys: 'F2', run: () => actions.setView({ renaming: layer }) },
    layer !== null && { words: 'Move the layer up', keys: 'Alt ↑', run: () => actions.stepLayer(layer, 1) },
    layer !== null && { words: 'Move the layer down', keys: 'Alt ↓', run: () => actions.stepLayer(layer, -1) },
    layer !== null && {
      words: 'Move the layer into the group beside it',
      keys: 'Alt →',
      run: () => actions.enterGroup(layer),
    },
    layer !== null && { words: 'Move the layer out of its group', keys: 'Alt ←', run: () => actions.leaveGroup(layer) },
    layer !== null && {
      words: 'Edit the mask of the layer',
      run: () => actions.select({ kind: 'mask', layer, entry: null }),
    },
    selection && {
      words: 'Show the selection large on the stage',
      keys: 'Space',
      run: () => actions.showSelection(selection),
    },
    what && { words: 'Switch the selection off or on', keys: 'O', run: () => actions.toggleEnabled(what) },
    what && { words: 'Show the selection alone', keys: 'A', run: () => actions.toggleSolo(what) },
    selectedNodes.length > 0 && {
      words: 'Duplicate the selected nodes',
      keys: 'Ctrl D',
      run: () => actions.duplicateNodes(selectedNodes),
    },
    selectedNodes.length > 0 && {
      words: 'Delete the selected nodes',
      keys: 'Delete',
      run: () => actions.deleteNodes(selectedNodes),
    },
    {
      words: wholeGraph ? 'Show only the nodes behind the selection' : 'Show the whole graph',
      run: () => actions.setView({ wholeGraph: !wholeGraph }),
    },
    ...stageCommands(actions),
    { words: 'Dials board', run: () => actions.setView({ tab: 'dials' }) },
    { words: 'States: name, compare, return', run: () => actions.setView({ tab: 'states' }) },
    {
      words: 'Settings of the whole material',
      run: () => (actions.select(null), actions.setView({ tab: 'selection', selectedNodes: [] })),
    },
    compared && { words: 'End the comparison', run: () => actions.setView({ compared: null, versus: null }) },
    { words: `Use the ${other} theme`, run: () => setTheme(other) },
    { words: 'Shortcuts', keys: '?', run: () => actions.setView({ help: 'shortcuts' }) },
    { words: 'A first material, step by step', run: actions.walk },
  ]
  return list.filter((one): one is CommandEntry => Boolean(one))
}
