import { cutText } from '#core/cut-text'
import type { Landing, LayerKind } from '#core/document/edits/layers'
import {
  addLayer,
  deleteLayer,
  enterGroup,
  findLayer,
  leaveGroup,
  locateLayer,
  moveLayers,
  setCell,
  stepLayers,
  wrapInGroup,
} from '#core/document/edits/layers'
import { duplicateLayer, giveOwnNodes } from '#core/document/edits/fragment'
import { deleteNodes, unusedNodes } from '#core/document/edits/nodes'
import { registry } from '#core/nodes/registry.generated'
import type { ActionContext } from './context'

/** Adding, moving and naming layers and groups. */
export function layerActions(context: ActionContext) {
  const { get, set, document, notify, edit, nameOf, select, selectedLayer, layersWith } = context
  /** One layer by its name, several by their number. */
  const inWords = (layers: readonly string[]): string =>
    layers.length === 1 ? nameOf(layers[0]!) : `${layers.length} layers`
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
    /** A press with Ctrl: one more layer is chosen, or one less. */
    alsoSelect(layer: string): void {
      const { selection, alsoLayers } = get()
      const main = selection && 'layer' in selection ? selection.layer : null
      if (main === null) return select({ kind: 'layer', layer })
      const rest = alsoLayers.filter((one) => one !== layer)
      if (layer !== main)
        return set({ alsoLayers: rest.length < alsoLayers.length ? rest : [...alsoLayers, layer], selectedNodes: [] })
      const [next, ...others] = alsoLayers
      if (next === undefined) return
      set({ selection: { kind: 'layer', layer: next }, alsoLayers: others, selectedNodes: [] })
    },
    /** A press with Shift: all rows from the chosen one to this. `rows` are all rows in order. */
    selectUpTo(layer: string, rows: readonly string[]): void {
      const { selection } = get()
      const from = selection && 'layer' in selection ? rows.indexOf(selection.layer) : -1
      const to = rows.indexOf(layer)
      if (from < 0 || to < 0) return select({ kind: 'layer', layer })
      const alsoLayers = rows
        .slice(Math.min(from, to), Math.max(from, to) + 1)
        .filter((_, i) => i !== (from < to ? 0 : from - to))
      set({ alsoLayers, selectedNodes: [] })
    },
    /** A copy with nodes of its own; `linked` shares them, so that a change to one is a change to both. */
    duplicateLayer(layer: string, linked = false): void {
      let copies: string[] = []
      const layers = layersWith(layer)
      edit(
        `Duplicate ${inWords(layers)}${linked ? ', linked' : ''}`,
        (draft) => (copies = layers.map((one) => duplicateLayer(draft, one, linked))),
      )
      const [first, ...also] = copies
      select({ kind: 'layer', layer: first! })
      set({ alsoLayers: also })
    },
    /** Copies of the nodes that other layers read too, so that changes here stay here. */
    giveOwnNodes(layer: string): void {
      edit(`Own nodes for ${nameOf(layer)}`, (draft) => giveOwnNodes(draft, layer))
    },
    deleteLayer(layer: string): void {
      const layers = layersWith(layer)
      const gone = new Set(layers)
      const at = locateLayer(document().layers, layers.includes(layer) ? layer : layers[0]!)
      const left = at?.list.filter(({ id }, index) => index === at.index || !gone.has(id)) ?? []
      const index = left.findIndex(({ id }) => id === at?.list[at.index]?.id)
      const next = left[index - 1] ?? left[index + 1] ?? at?.group
      const name = inWords(layers)
      const before = new Set(unusedNodes(document()))
      edit(`Delete ${name}`, (draft) => layers.forEach((one) => deleteLayer(draft, one)))
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
      const layers = layersWith(layer)
      edit(`Move ${inWords(layers)}`, (draft) => moveLayers(draft, layers, landing))
    },
    stepLayer(layer: string, by: 1 | -1): void {
      const layers = layersWith(layer)
      edit(`Move ${inWords(layers)}`, (draft) => stepLayers(draft, layers, by))
    },
    enterGroup(layer: string): void {
      const layers = layersWith(layer)
      let moved = false
      edit(`Move ${inWords(layers)} into a group`, (draft) => {
        for (const one of layers) moved = enterGroup(draft, one) || moved
      })
      if (!moved) notify('There is no group just above or below this layer.')
    },
    leaveGroup(layer: string): void {
      const layers = layersWith(layer)
      let moved = false
      // From the topmost, so that they keep their order above the group.
      edit(`Move ${inWords(layers)} out of its group`, (draft) => {
        for (const one of layers.toReversed()) moved = leaveGroup(draft, one) || moved
      })
      if (!moved) notify('This layer is in no group.')
    },
    /** A new group around a layer and those chosen with it. */
    wrapInGroup(layer: string): void {
      let group: string | null = null
      const layers = layersWith(layer)
      edit(`Group ${inWords(layers)}`, (draft) => (group = wrapInGroup(draft, layers)))
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
