import { parsePort } from '#core/document/address'
import { cutText } from '#core/cut-text'
import type { Source } from '#core/document/document'
import { addLayer, setCell } from '#core/document/edits/layers'
import {
  addNode,
  connect,
  deleteNodes,
  disconnect,
  duplicateNodes,
  pasteNodes,
  wouldCircle,
} from '#core/document/edits/nodes'
import { GristError } from '#core/errors'
import type { PortType } from '#core/field/field'
import { fitOf, fittingPort, openTypes, portTypes } from '#core/graph/port-types'
import { registry } from '#core/nodes/registry.generated'
import type { Asset } from '../../contracts/asset'
import { typeAt, writeSource } from '../places'
import type { LooseWire, Selection } from '../view'
import type { ActionContext } from './context'

/** Nodes and wires; files that are dropped become image nodes. */
export function nodeActions(
  context: ActionContext,
  setSource: (place: Selection, source: Source) => void,
  addAsset: (file: File) => Promise<Asset | string>,
) {
  const { set, document, notify, edit, select, selectedLayer, selectNodes } = context
  const actions = {
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
        if ('place' in wire.fixed) writeSource(draft, wire.fixed.place, output(wire.type))
        else if (wire.loose === 'output') connect(draft, wire.fixed.node, wire.fixed.port, output(wire.type))
        else {
          const port = fittingPort(node, wire.type, 'input')?.port
          if (port) connect(draft, id, port, { node: `${wire.fixed.node}.${wire.fixed.port}` })
        }
      })
      if (into) set({ selection: into })
      set({ palette: null })
      selectNodes([id])
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
      if ('kind' in to) return setSource(to, { node: from })
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
    /** The input of a node that suits an output ("node.port") best: free before taken, as it is before converted; null where none does. */
    inputFor(from: string, node: string): { node: string; port: string } | null {
      const definition = registry.get(document().nodes[node]?.type ?? '')
      const taken = document().nodes[node]?.inputs ?? {}
      const type = portTypes(document(), registry).output(from)
      if (!definition || !type) return null
      const fits = Object.keys(definition.inputs)
        .filter((port) => actions.refusal(from, { node, port }) === null)
        .map((port, index) => {
          const { type: own } = definition.inputs[port]!
          const fit = fitOf(type, own, openTypes(definition, port))
          return { port, rank: (taken[port] === undefined ? 0 : 1000) + (fit.kind === 'same' ? 0 : 100) + index }
        })
      const [best] = fits.sort((a, b) => a.rank - b.rank)
      return best ? { node, port: best.port } : null
    },
    /** The output of a node that suits a place or an input best, as "node.port"; null where none does. */
    outputFor(node: string, to: { node: string; port: string } | Selection): string | null {
      const definition = registry.get(document().nodes[node]?.type ?? '')
      const wanted = 'kind' in to ? typeAt(document(), to) : portTypes(document(), registry).input(to.node, to.port)
      const best = definition && fittingPort(definition, wanted === 'any' || !wanted ? 'grey' : wanted, 'output')
      if (!best) return null
      const address = `${node}.${best.port}`
      return actions.refusal(address, to) === null ? address : null
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
      selectNodes(copies)
    },
    pasteNodes(text: string): void {
      try {
        let pasted: string[] = []
        edit('Paste nodes', (draft) => (pasted = pasteNodes(draft, text, registry, [24, 24])))
        selectNodes(pasted)
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
  }
  return actions
}
