import { parsePort } from '#core/document/address'
import { cutText } from '#core/cut-text'
import type { MaterialDocument, Source } from '#core/document/document'
import { inputSources, nodeOf, sourceAt } from '#core/document/sources'
import { frameNodes, unframeNodes } from '#core/document/edits/frames'
import { clearCell, deleteMaskEntry, findLayer, findPlain } from '#core/document/edits/layers'
import { duplicateNodes } from '#core/document/edits/copies'
import type { CellPlace } from '#core/document/edits/nodes'
import { addNode, connect, deleteNodes, disconnect, feedersOf, usesOf, wouldCircle } from '#core/document/edits/nodes'
import { moveOperation } from '#core/document/edits/operations'
import type { PortType } from '#core/field/field'
import { fitOf, fittingPort, openTypes, portTypes } from '#core/graph/port-types'
import { registry } from '#core/nodes/registry.generated'
import { sourceType, typeAt, writeSource } from '../places'
import { nodeTitle, readerInWords } from '../words/source-words'
import { stepInWords } from '../words/step-words'
import type { LooseWire, Selection } from '../view'
import { sameSelection } from '../view'
import { besideCard, chainInput, fitsAt, putBehind, sourceNow } from './chain'
import type { ActionContext } from './context'
import { circleAfter } from './taps'

/** Where a wire ends: a node's input, or a cell or mask entry. */
export type End = { node: string; port: string } | Selection

const sameEnd = (a: End, b: End): boolean =>
  'kind' in a || 'kind' in b
    ? 'kind' in a && 'kind' in b && sameSelection(a, b)
    : a.node === b.node && a.port === b.port

function writeEnd(draft: MaterialDocument, end: End, source: Source): void {
  if ('kind' in end) writeSource(draft, end, source)
  else connect(draft, end.node, end.port, source)
}

function clearEnd(draft: MaterialDocument, end: End): void {
  if (!('kind' in end)) disconnect(draft, end.node, end.port)
  else if (end.kind === 'cell') clearCell(draft, end.layer, end.channel)
  else if (end.kind === 'mask' && end.entry !== null) deleteMaskEntry(draft, end.layer, end.entry)
}

/** The place that an output goes to: of a mask the entry that feeds it, as it stands behind that from then on; else a new one. */
function behind(document: MaterialDocument, from: string, place: Selection): Selection {
  if (place.kind !== 'mask' || place.entry !== null) return place
  const feeders = new Set(feedersOf(document, { node: from }))
  const entry = findLayer(document, place.layer)?.mask.findIndex(({ source }) => {
    const id = nodeOf(document, source)
    return id !== null && id !== parsePort(from).node && feeders.has(id)
  })
  return entry === undefined || entry < 0 ? place : { ...place, entry }
}

/** What changes besides where nodes go that several places read, or that dials drive; null where nothing else does. */
function alsoChanges(document: MaterialDocument, ids: readonly string[]): string | null {
  const gone = new Set(ids)
  const readers = ids.flatMap((id) => usesOf(document, id).filter((use) => use.kind !== 'input' || !gone.has(use.node)))
  const dials = document.dials.filter(({ drives }) => drives.some((drive) => 'node' in drive && gone.has(drive.node)))
  if (readers.length < 2 && dials.length === 0) return null
  const what = ids.length === 1 ? nodeTitle(document, ids[0]!) : `${ids.length} nodes`
  const words = [
    readers.length > 1
      ? `${readers.length} places read it: ${inList(readers.map((use) => readerInWords(document, use)))}`
      : null,
    dials.length > 0 ? `no longer driven: ${inList(dials.map(({ label }) => label))}` : null,
  ].filter((one) => one !== null)
  return `${what} deleted; ${words.join('; ')}.`
}

/** At most three, and how many more. */
const inList = (words: readonly string[]): string =>
  words.length <= 3 ? words.join(', ') : `${words.slice(0, 3).join(', ')} and ${words.length - 3} more`

/** Nodes and wires. */
export function nodeActions(context: ActionContext, setSource: (place: Selection, source: Source) => void) {
  const { control, get, set, document, notify, edit, selectNodes } = context
  const actions = {
    /**
     * Adds a node, wired as it is asked for, and chooses it: into a place it takes in what was there; with no wish it goes
     * behind the chosen node, or into the chosen cell of a correction. Gives its id; null where there is no such type.
     */
    addNode(
      type: string,
      options: { at?: [number, number]; wire?: LooseWire; into?: Selection; params?: object } = {},
    ): string | null {
      const node = registry.get(type)
      if (!node) return null
      let id = ''
      const { wire, params } = options
      const chosen = wire || options.into ? null : chosenNode()
      const into = options.into ?? (wire || chosen ? undefined : correctionCell())
      const at = options.at ?? (chosen ? besideCard(document(), chosen) : undefined)
      edit(`Add ${node.title}`, (draft) => {
        id = addNode(draft, node, at, params as Record<string, unknown> | undefined)
        const output = (wanted: PortType): Source => ({
          node: `${id}.${fittingPort(node, wanted, 'output')?.port ?? Object.keys(node.outputs)[0]!}`,
        })
        if (into) {
          const before = sourceNow(draft, into)
          const port = before && chainInput(node, sourceType(draft, before))
          if (before && port) connect(draft, id, port, { ...before })
          // What makes something by itself replaces what is there only where that was asked for.
          if (port || options.into) writeSource(draft, into, output(typeAt(draft, into)))
        }
        if (chosen) putBehind(draft, chosen, node, id)
        if (!wire) return
        if ('place' in wire.fixed) writeSource(draft, wire.fixed.place, output(wire.type))
        else if (wire.loose === 'output') connect(draft, wire.fixed.node, wire.fixed.port, output(wire.type))
        else {
          const port = fittingPort(node, wire.type, 'input')?.port
          if (port) connect(draft, id, port, sourceAt(`${wire.fixed.node}.${wire.fixed.port}`))
        }
      })
      if (options.into) set({ selection: options.into })
      set({ palette: null })
      selectNodes([id])
      return id
    },
    /** Connects an output ("node.port") to a node's input or to a cell or mask entry; says why where it cannot. */
    connect(from: string, to: { node: string; port: string } | Selection): void {
      const reason = actions.refusal(from, to)
      if (reason) return notify(reason)
      if ('kind' in to) return setSource(behind(document(), from, to), sourceAt(from))
      edit(`Connect ${nodeTitle(document(), to.node)}`, (draft) => writeEnd(draft, to, sourceAt(from)))
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
    /** A wire whose end is picked up and laid elsewhere: one edit. Says why where it cannot be there. */
    moveWire(from: string, old: End, to: End): void {
      if (sameEnd(old, to)) return
      const reason = actions.refusal(from, to)
      if (reason) return notify(reason)
      edit('Move wire', (draft) => {
        writeEnd(draft, to, sourceAt(from))
        clearEnd(draft, old)
      })
    },
    /** Puts a node that nothing is wired to between an output and what reads it. Says why where it does not fit. */
    insertIntoWire(id: string, from: string, to: End): void {
      const node = registry.get(document().nodes[id]?.type ?? '')
      const types = portTypes(document(), registry)
      const type = types.output(from)
      if (!node || !type) return
      const wanted = 'kind' in to ? typeAt(document(), to) : (types.input(to.node, to.port) ?? 'any')
      const input = fittingPort(node, type, 'input')?.port
      const output = fittingPort(node, wanted === 'any' ? type : wanted, 'output')?.port
      const title = nodeTitle(document(), id)
      if (!input || !output)
        return notify(`${title} does not fit into this wire: it ${input ? 'gives' : 'takes'} nothing of the kind.`)
      edit(`Put ${title} into a wire`, (draft) => {
        connect(draft, id, input, sourceAt(from))
        writeEnd(draft, to, { node: `${id}.${output}` })
      })
    },
    /** Whether neither an input of a node is wired nor anything reads it. */
    isUnwired: (id: string): boolean =>
      inputSources(document().nodes[id]).every((source) => nodeOf(document(), source) === null) &&
      usesOf(document(), id).length === 0,
    /** Makes a node's first output that fits the source of a cell or mask. Says why where none does. */
    putNode(id: string, place: Selection): void {
      const output = actions.outputFor(id, place)
      if (!output) return notify(`${nodeTitle(document(), id)} gives nothing that this takes.`)
      setSource(place, { node: output })
      set({ selection: place, selectedNodes: [id] })
    },
    disconnect(node: string, port: string): void {
      edit(`Disconnect ${nodeTitle(document(), node)}`, (draft) => disconnect(draft, node, port))
    },
    setInput(node: string, port: string, source: Source): void {
      const write = (draft: MaterialDocument): void => connect(draft, node, port, source)
      const [output = ''] = Object.keys(registry.get(document().nodes[node]?.type ?? '')?.outputs ?? {})
      const circle = circleAfter(document(), write, source, { kind: 'port', node, port: output })
      if (circle) return notify(circle)
      edit(`Input of ${nodeTitle(document(), node)}`, write)
    },
    deleteNodes(ids: readonly string[]): void {
      if (ids.length === 0) return
      const told = alsoChanges(document(), ids)
      edit(ids.length === 1 ? `Delete ${nodeTitle(document(), ids[0]!)}` : `Delete ${ids.length} nodes`, (draft) =>
        deleteNodes(draft, ids, registry, (source, at) => fitsAt(draft, source, at)),
      )
      set({ selectedNodes: [] })
      if (told) notify(told, { word: 'Undo', run: () => notify(stepInWords('undo', control.undo())) })
    },
    duplicateNodes(ids: readonly string[]): void {
      let copies: string[] = []
      edit('Duplicate nodes', (draft) => (copies = [...duplicateNodes(draft, ids).values()]))
      selectNodes(copies)
    },
    renameNode(id: string, name: string): void {
      edit('Rename node', (draft) => {
        const node = draft.nodes[id]
        if (!node) return
        // What its type is called is no name of its own.
        if (name.trim() === '' || name.trim() === registry.get(node.type)?.title) delete node.name
        else node.name = cutText(name.trim(), 200)
      })
    },
    /** Draws a frame around nodes, and asks for its name. */
    frameNodes(ids: readonly string[]): void {
      if (ids.length === 0) return
      let frame = ''
      edit('Frame nodes', (draft) => (frame = frameNodes(draft, ids, 'Frame')))
      set({ renamingFrame: frame })
    },
    unframeNodes(ids: readonly string[]): void {
      edit('Take nodes out of their frame', (draft) => unframeNodes(draft, ids))
    },
    renameFrame(frame: string, name: string): void {
      edit('Rename frame', (draft) => {
        if (draft.frames[frame] && name.trim() !== '') draft.frames[frame].name = cutText(name.trim(), 200)
      })
    },
    /** Gives an operation on the way to a cell another place among them. */
    moveOperation(place: CellPlace, from: number, to: number): void {
      edit('Reorder operations', (draft) => moveOperation(draft, registry, place, from, to))
    },
    /** Where nodes stand in the graph: no step of undo. */
    placeNodes(places: ReadonlyMap<string, [number, number]>): void {
      control.arrange((draft) => {
        for (const [id, at] of places) if (draft.nodes[id]) draft.nodes[id].at = at
      })
    },
  }
  return actions

  /** The one node that is chosen. */
  function chosenNode(): string | null {
    const [id, ...more] = get().selectedNodes
    return id !== undefined && more.length === 0 && document().nodes[id] ? id : null
  }

  /** The chosen cell where it is one of a correction: new nodes go to work on what lies below. */
  function correctionCell(): Selection | undefined {
    const { selection } = get()
    const isOne = selection?.kind === 'cell' && findPlain(document(), selection.layer)?.kind === 'correction'
    return isOne ? selection : undefined
  }
}
