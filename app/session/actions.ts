import { channelOutput, parsePort } from '#core/document/address'
import { sameOutput } from '#core/texture/stage-output'
import type { StageOutput } from '#core/texture/stage-output'
import { cutText } from '#core/cut-text'
import type { Cell, MaskEntry, MaterialDocument, Source } from '#core/document/document'
import type { Toggleable } from '#core/document/edits/focus'
import { toggleable, sameToggleable, setOff } from '#core/document/edits/focus'
import type { DialShape, DialTarget, DialValue } from '#core/document/edits/dials'
import { bindDial, makeDial, setTarget, unbind, writeTarget } from '#core/document/edits/dials'
import type { Landing, LayerKind } from '#core/document/edits/layers'
import {
  addChannel,
  addLayer,
  addMaskEntry,
  locateLayer,
  clearCell,
  deleteChannel,
  deleteLayer,
  deleteMaskEntry,
  duplicateLayer,
  enterGroup,
  findLayer,
  findPlain,
  moveLayer,
  moveMaskEntry,
  setCell,
  stepLayer,
} from '#core/document/edits/layers'
import {
  addNode,
  connect,
  copyCell,
  deleteNodes,
  disconnect,
  duplicateNodes,
  linkCell,
  pasteNodes,
  wouldCircle,
} from '#core/document/edits/nodes'
import { GristError } from '#core/errors'
import type { PortType } from '#core/field/field'
import { fitOf, openTypes, fittingPort, portTypes } from '#core/graph/port-types'
import { channelsOf } from '#core/document/channels'
import { registry } from '#core/nodes/registry.generated'
import type { Asset } from '../contracts/asset'
import type { EditingControl } from './document/document-store'
import type { LooseWire, Selection, StageView, View, ViewStore } from './view'
import { outputOf, sameSelection } from './view'

/** What can be done on the material screen; buttons, keys and the finder all end here. */
export function createActions(
  control: EditingControl,
  view: ViewStore,
  addAsset: (file: File) => Promise<Asset | string>,
) {
  const { getState: get, setState: set } = view
  const document = (): MaterialDocument => control.store.getState().document
  const notify = (notice: string | null): void => set({ notice })
  const nameOf = (layer: string): string => findLayer(document(), layer)?.name ?? layer

  function select(selection: Selection | null): void {
    if (sameSelection(selection, get().selection) && get().selectedNodes.length === 0) return
    set({ selection, selectedNodes: [], tab: get().tab === 'states' ? 'states' : 'selection' })
  }

  function edit(label: string, change: (draft: MaterialDocument) => void): void {
    notify(null)
    control.edit(label, change)
  }

  const selectedLayer = (): string | null => {
    const { selection } = get()
    return selection && 'layer' in selection ? selection.layer : null
  }

  const actions = {
    /** Begins the walk through a first material. */
    walk: (): void => set({ guide: true, guideStep: 0, guideStart: document() }),
    select,
    notify,
    edit,
    selectedLayer,

    selectNodes(selectedNodes: readonly string[]): void {
      const now = get().selectedNodes
      if (selectedNodes.length === now.length && selectedNodes.every((id, i) => id === now[i])) return
      set({ selectedNodes, ...(selectedNodes.length > 0 ? { tab: 'selection' as const } : {}) })
    },

    // Layers

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
      edit(`Delete ${nameOf(layer)}`, (draft) => deleteLayer(draft, layer))
      select(next ? { kind: 'layer', layer: next.id } : null)
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

    // Cells and masks

    setCell(layer: string, channel: string, change: Partial<Cell>, label = 'Cell'): void {
      edit(`${label} of ${nameOf(layer)}`, (draft) => setCell(draft, layer, channel, change))
    },
    fillCell(layer: string, channel: string): void {
      const type = channelsOf(document()).find((one) => one.id === channel)?.type
      if (type === 'normal') return actions.openPalette({ kind: 'nodes', into: { kind: 'cell', layer, channel } })
      actions.setCell(layer, channel, { source: { value: type === 'colour' ? '#8a8378' : 0.5 } }, 'Fill cell')
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
      } else if (place.kind === 'layer') actions.deleteLayer(place.layer)
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
    addMaskEntry(layer: string, source: MaskEntry['source']): void {
      edit(`Add to mask of ${nameOf(layer)}`, (draft) => void addMaskEntry(draft, layer, source))
      select({ kind: 'mask', layer, entry: (findLayer(document(), layer)?.mask.length ?? 1) - 1 })
    },
    moveMaskEntry(layer: string, from: number, to: number): void {
      edit(`Reorder mask of ${nameOf(layer)}`, (draft) => moveMaskEntry(draft, layer, from, to))
      select({ kind: 'mask', layer, entry: to })
    },
    /** Writes the source of a cell or mask entry. */
    setSource(place: Selection, source: Source): void {
      if ('layer' in place) edit(`Source in ${nameOf(place.layer)}`, (draft) => writeSource(draft, place, source))
    },
    addChannel(title: string, type: 'grey' | 'colour'): void {
      const taken = channelsOf(document()).map(({ id }) => id)
      edit(`Add channel ${title}`, (draft) => void addChannel(draft, title, type, taken))
    },
    deleteChannel(id: string): void {
      edit('Delete channel', (draft) => deleteChannel(draft, id))
      if (sameOutput(get().stage.shown, channelOutput(id))) actions.setStage({ shown: null })
      select(null)
    },

    // Off, alone, before and after

    toggleEnabled(what: Toggleable): void {
      const off = toggleable(document(), what)?.off ?? false
      edit(off ? 'Switch on' : 'Switch off', (draft) => setOff(draft, what, !off))
    },
    toggleSolo(what: Toggleable): void {
      set({ solo: sameToggleable(get().solo, what) ? null : what })
    },
    showWithout(what: Toggleable | null): void {
      if (!sameToggleable(get().without, what)) set({ without: what })
    },

    // Nodes

    addNode(
      type: string,
      options: { at?: [number, number]; wire?: LooseWire; into?: Selection; params?: object } = {},
    ): void {
      const node = registry.get(type)
      if (!node) return
      let id = ''
      const { at, wire, into, params } = options
      edit(`Add ${node.title}`, (draft) => {
        id = addNode(draft, node, at, params as Record<string, unknown> | undefined)
        const output = (wanted: PortType): Source => ({
          node: `${id}.${fittingPort(node, wanted, 'output')?.port ?? Object.keys(node.outputs)[0]!}`,
        })
        if (into) writeSource(draft, into, output(typeAt(draft, into)))
        if (!wire) return
        if ('sink' in wire.fixed) writeSource(draft, wire.fixed.sink, output(wire.type))
        else if (wire.loose === 'output') connect(draft, wire.fixed.node, wire.fixed.port, output(wire.type))
        else {
          const port = fittingPort(node, wire.type, 'input')?.port
          if (port) connect(draft, id, port, { node: `${wire.fixed.node}.${wire.fixed.port}` })
        }
      })
      if (into) set({ selection: into })
      set({ palette: null })
      actions.selectNodes([id])
    },
    /** A file dropped on the graph: an image node of it. */
    async dropImage(file: File, at?: [number, number]): Promise<void> {
      notify(`Reading ${file.name} …`)
      const sent = await addAsset(file)
      if (typeof sent === 'string') return notify(`■ ${sent}`)
      actions.addNode('image', { at, params: { image: `sha256:${sent.sha256}` } })
    },
    /** A file dropped on the sheet or the stage: a layer whose colour it is. */
    async dropLayer(file: File): Promise<void> {
      notify(`Reading ${file.name} …`)
      const sent = await addAsset(file)
      if (typeof sent === 'string') return notify(`■ ${sent}`)
      let layer = ''
      edit(`Add layer of ${file.name}`, (draft) => {
        layer = addLayer(draft, 'layer', selectedLayer(), cutText(file.name.replace(/\.[^.]*$/, ''), 60) || 'Image')
        const id = addNode(draft, registry.get('image')!, undefined, { image: `sha256:${sent.sha256}` })
        setCell(draft, layer, 'colour', { source: { node: `${id}.colour` } })
      })
      select({ kind: 'cell', layer, channel: 'colour' })
    },
    /** Connects an output ("node.port") to a node's input or to a cell or mask entry; says why where it cannot. */
    connect(from: string, to: { node: string; port: string } | Selection): void {
      const reason = actions.refusal(from, to)
      if (reason) return notify(reason)
      if ('kind' in to) return actions.setSource(to, { node: from })
      edit('Connect', (draft) => connect(draft, to.node, to.port, { node: from }))
    },
    /** Why a wire cannot be; null where it can. */
    refusal(from: string, to: { node: string; port: string } | Selection): string | null {
      const types = portTypes(document(), registry)
      const type = types.output(from)
      if (!type) return 'This output does not exist.'
      if ('kind' in to) {
        const fit = fitOf(type, typeAt(document(), to))
        return fit.kind === 'refused' ? fit.reason : null
      }
      if (wouldCircle(document(), parsePort(from).node, to.node))
        return 'This wire would close a circle: the node would feed itself.'
      const node = registry.get(document().nodes[to.node]?.type ?? '')
      const fit = fitOf(type, types.input(to.node, to.port) ?? 'any', openTypes(node, to.port))
      return fit.kind === 'refused' ? fit.reason : null
    },
    disconnect(node: string, port: string): void {
      edit('Disconnect', (draft) => disconnect(draft, node, port))
    },
    setInput(node: string, port: string, source: Source): void {
      edit('Input', (draft) => connect(draft, node, port, source))
    },
    deleteNodes(ids: readonly string[]): void {
      if (ids.length === 0) return
      edit(ids.length === 1 ? 'Delete node' : `Delete ${ids.length} nodes`, (draft) =>
        deleteNodes(draft, ids, registry),
      )
      set({ selectedNodes: [] })
    },
    duplicateNodes(ids: readonly string[]): void {
      let copies: string[] = []
      edit('Duplicate nodes', (draft) => (copies = [...duplicateNodes(draft, ids).values()]))
      actions.selectNodes(copies)
    },
    pasteNodes(text: string): void {
      try {
        let pasted: string[] = []
        edit('Paste nodes', (draft) => (pasted = pasteNodes(draft, text, registry, [24, 24])))
        actions.selectNodes(pasted)
      } catch (error) {
        notify(error instanceof GristError ? error.message : 'What was copied could not be pasted.')
      }
    },
    renameNode(id: string, name: string): void {
      edit('Rename node', (draft) => {
        const node = draft.nodes[id]
        if (!node) return
        if (name.trim() === '') delete node.name
        else node.name = cutText(name.trim(), 200)
      })
    },
    placeNodes(places: ReadonlyMap<string, [number, number]>, label = 'Move nodes'): void {
      edit(label, (draft) => {
        for (const [id, at] of places) if (draft.nodes[id]) draft.nodes[id].at = at
      })
    },

    // Parameters and dials

    /** Shows a change while it goes on; `drop` makes it one edit. */
    drag: control.drag,
    drop: control.drop,

    dragTarget(label: string, target: DialTarget, value: unknown, whole?: unknown): void {
      control.drag(label, (draft) => setTarget(draft, target, value, whole))
    },
    setTarget(label: string, target: DialTarget, value: unknown, whole?: unknown): void {
      edit(label, (draft) => setTarget(draft, target, value, whole))
    },
    makeDial(label: string, shape: DialShape, target: DialTarget, value: DialValue, whole?: unknown): void {
      edit(`Make dial ${label}`, (draft) => {
        writeTarget(draft, target, value, whole)
        makeDial(draft, label, shape, target, value)
      })
      notify(`“${label}” is on the dials board now.`)
    },
    bindDial(dial: string, target: DialTarget, value: DialValue, whole?: unknown): void {
      edit('Bind to dial', (draft) => {
        writeTarget(draft, target, value, whole)
        bindDial(draft, dial, target, value)
      })
    },
    freeTarget(target: DialTarget, value: DialValue, whole?: unknown): void {
      edit('Free from dial', (draft) => {
        unbind(draft, target)
        writeTarget(draft, target, value, whole)
      })
    },

    // The stage, and what is on screen

    setStage(change: Partial<StageView>): void {
      set({ stage: { ...get().stage, ...change } })
    },
    /** Shows an output large and flat on the stage; once more brings the lit material back. */
    showLarge(output: StageOutput): void {
      const { stage } = get()
      actions.setStage(sameOutput(stage.shown, output) ? { shown: null } : { shown: output, mode: 'flat' })
    },
    isolate(channel: string): void {
      const { stage } = get()
      const output = channelOutput(channel)
      actions.setStage({ shown: sameOutput(stage.shown, output) ? null : output })
      select({ kind: 'channel', channel })
    },
    showSelection: (place: Selection): void => actions.showLarge(outputOf(document(), place)),
    setView: (change: Partial<View>): void => set(change),
    openPalette(palette: View['palette']): void {
      set({ palette })
    },
  }

  function writeSource(draft: MaterialDocument, place: Selection, source: Source): void {
    if (place.kind === 'cell') setCell(draft, place.layer, place.channel, { source })
    else if (place.kind === 'mask') {
      const entry = findLayer(draft, place.layer)?.mask[place.entry ?? 0]
      if (entry) entry.source = source
      else addMaskEntry(draft, place.layer, source)
    }
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

/** What a place takes in. */
export function typeAt(document: MaterialDocument, place: Selection): PortType {
  if (place.kind === 'mask' || place.kind === 'layer') return 'grey'
  return channelsOf(document).find((channel) => channel.id === place.channel)?.type ?? 'grey'
}

/** What a source carries; null where it leads nowhere. */
export function sourceType(document: MaterialDocument, source: Source): PortType | null {
  if ('value' in source) return typeof source.value === 'number' ? 'grey' : 'colour'
  if ('node' in source) return portTypes(document, registry).output(source.node)
  if ('backdrop' in source) return typeAt(document, { kind: 'channel', channel: source.backdrop })
  const tap = document.taps[source.tap]
  if (!tap) return null
  if ('node' in tap) return portTypes(document, registry).output(tap.node)
  return 'mask' in tap ? 'grey' : typeAt(document, { kind: 'channel', channel: tap.channel })
}

export type Actions = ReturnType<typeof createActions>
