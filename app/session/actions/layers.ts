import { cutText } from '#core/cut-text'
import type { Landing, LayerKind } from '#core/document/edits/layers'
import {
  addLayer,
  deleteLayer,
  duplicateLayer,
  enterGroup,
  findLayer,
  leaveGroup,
  locateLayer,
  moveLayer,
  setCell,
  stepLayer,
  wrapInGroup,
} from '#core/document/edits/layers'
import { deleteNodes, unusedNodes } from '#core/document/edits/nodes'
import { registry } from '#core/nodes/registry.generated'
import type { ActionContext } from './context'

/** Adding, moving and naming layers and groups. */
export function layerActions({ get, set, document, notify, edit, nameOf, select, selectedLayer }: ActionContext) {
  return {
    addLayer(kind: LayerKind, filled = false): void {
      let id = ''
      edit(`Add ${kind}`, (draft) => {
        id = addLayer(draft, kind, selectedLayer())
        if (!filled) return
        setCell(draft, id, 'colour', { source: { value: '#8a8378' } })
        setCell(draft, id, 'roughness', { source: { value: 0.6 } })
      })
      select({ kind: 'layer', layer: id })
    },
    duplicateLayer(layer: string): void {
      let id = ''
      edit(`Duplicate ${nameOf(layer)}`, (draft) => (id = duplicateLayer(draft, layer)))
      select({ kind: 'layer', layer: id })
    },
    deleteLayer(layer: string): void {
      const at = locateLayer(document().layers, layer)
      const next = at && (at.list[at.index - 1] ?? at.list[at.index + 1] ?? at.group)
      const name = nameOf(layer)
      const before = new Set(unusedNodes(document()))
      edit(`Delete ${name}`, (draft) => deleteLayer(draft, layer))
      select(next ? { kind: 'layer', layer: next.id } : null)
      const loose = unusedNodes(document()).filter((id) => !before.has(id))
      if (loose.length === 0) return
      const what = loose.length === 1 ? 'the node' : `the ${loose.length} nodes`
      notify(`${name} deleted. Nothing uses ${what} behind it any more.`, {
        word: loose.length === 1 ? 'Delete it too' : 'Delete them too',
        run: () =>
          edit(`Delete ${what} of ${name}`, (draft) =>
            deleteNodes(
              draft,
              loose.filter((id) => draft.nodes[id]),
              registry,
            ),
          ),
      })
    },
    renameLayer(layer: string, name: string): void {
      edit(`Rename ${nameOf(layer)}`, (draft) => {
        const found = findLayer(draft, layer)
        if (found && name.trim() !== '') found.name = cutText(name.trim(), 200)
      })
    },
    moveLayer(layer: string, landing: Landing): void {
      edit(`Move ${nameOf(layer)}`, (draft) => void moveLayer(draft, layer, landing))
    },
    stepLayer(layer: string, by: 1 | -1): void {
      edit(`Move ${nameOf(layer)}`, (draft) => void stepLayer(draft, layer, by))
    },
    enterGroup(layer: string): void {
      edit(`Move ${nameOf(layer)} into a group`, (draft) => {
        if (!enterGroup(draft, layer)) notify('There is no group just above or below this layer.')
      })
    },
    leaveGroup(layer: string): void {
      edit(`Move ${nameOf(layer)} out of its group`, (draft) => {
        if (!leaveGroup(draft, layer)) notify('This layer is in no group.')
      })
    },
    /** A new group around a layer. */
    wrapInGroup(layer: string): void {
      let group: string | null = null
      edit(`Group ${nameOf(layer)}`, (draft) => (group = wrapInGroup(draft, layer)))
      if (group !== null) select({ kind: 'layer', layer: group })
    },
    setClosed(layer: string, closed: boolean): void {
      edit(closed ? 'Close group' : 'Open group', (draft) => {
        const found = findLayer(draft, layer)
        if (found?.kind === 'group') found.closed = closed
      })
    },
    fold(layer: string): void {
      if (findLayer(document(), layer)?.kind !== 'group') return
      const folded = new Set(get().folded)
      if (!folded.delete(layer)) folded.add(layer)
      set({ folded })
    },
  }
}
