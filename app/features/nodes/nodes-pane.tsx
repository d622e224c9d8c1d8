import { parsePort } from '#core/document/address'
import type { Connection, Edge, FinalConnectionState, Node, NodeChange, Viewport } from '@xyflow/react'
import { ConnectionLineType, ReactFlow, ReactFlowProvider, applyNodeChanges, useReactFlow } from '@xyflow/react'
import '@xyflow/react/dist/base.css'
import { LayoutGrid, Maximize, Plus } from 'lucide-react'
import { startTransition, useCallback, useEffect, useMemo, useRef, useState } from 'react'
import type { PortType } from '#core/field/field'
import { copyNodes } from '#core/document/edits/nodes'
import { findLayer } from '#core/document/edits/layers'
import type { MaterialDocument } from '#core/document/document'
import { channelsOf } from '#core/document/channels'
import { registry } from '#core/nodes/registry.generated'
import { Button } from '../../ui/button'
import { useFileDrop } from '../../ui/use-file-drop'
import { counted } from '../../ui/words'
import { useActions, useEvaluation, useMaterial, useUndialled, useView } from '../../session/material'
import type { Selection } from '../../session/view'
import type { CardData, OutputCardData } from './node-card'
import type { CardSize } from './card-size'
import { cardSize, outputCardSize } from './card-size'
import { NodeCard, OutputCardView } from './node-card'
import type { WireData } from './wire'
import { NodeWire } from './wire'
import type { NodeGraph } from './node-graph'
import { MAX_ZOOM, MIN_ZOOM, rememberedViewports } from './viewports'
import { OUTPUT_CARD, nodeGraph, placesOf, tidyPlaces } from './node-graph'

/** Below this zoom cards cannot be read. */
const LEGIBLE = 0.72

type Card = Node<CardData | OutputCardData>
const NODE_TYPES = { card: NodeCard, outputCard: OutputCardView }
const WIRE_TYPES = { wire: NodeWire }

/** The nodes behind what is chosen. */
export function NodesPane() {
  const actions = useActions()
  const document = useUndialled()
  const place = useView((view) => view.selection)
  const whole = useView((view) => view.wholeGraph)
  const graph = useMemo(() => nodeGraph(document, registry, place, whole), [document, place, whole])
  const drawn = useAfterFirstPicture()
  return (
    <section aria-label="Nodes" className="flex h-full min-h-0 flex-col bg-panel" data-guide="nodes">
      <header className="flex h-10 shrink-0 items-center gap-2 border-y border-rule px-3">
        <h2 className="font-semibold">Nodes</h2>
        <span className="min-w-0 truncate">{place ? placeInWords(document, place) : 'the whole material'}</span>
        <span className="min-w-0 flex-1 truncate font-mono text-[11px] text-ink-soft">
          {counted(graph.nodes.length, 'node')}
        </span>
        <Button onClick={() => actions.openPalette({ kind: 'nodes' })} data-guide="add-node">
          <Plus size={13} aria-hidden /> Node
        </Button>
        <Button
          title="Lays the shown nodes out along their wires"
          disabled={graph.nodes.length === 0}
          onClick={() => actions.placeNodes(tidied(graph, document), 'Tidy layout')}
        >
          <LayoutGrid size={13} aria-hidden /> Tidy
        </Button>
        <Button
          aria-pressed={whole}
          onClick={() => actions.setView({ wholeGraph: !whole })}
          className="aria-pressed:bg-ink aria-pressed:text-ground"
        >
          Whole graph
        </Button>
      </header>
      {drawn && (
        <ReactFlowProvider>
          <Flow graph={graph} />
        </ReactFlowProvider>
      )}
    </section>
  )
}

/** Whether the first picture has been drawn: many cards take a third of a second, and it comes before them. */
function useAfterFirstPicture(): boolean {
  const made = useEvaluation(({ state }) => state !== 'waiting')
  const [drawn, setDrawn] = useState(made)
  useEffect(() => {
    if (!made) return
    // The frame after the next: a picture is drawn with the next one.
    let frame = requestAnimationFrame(() => {
      frame = requestAnimationFrame(() => startTransition(() => setDrawn(true)))
    })
    return () => cancelAnimationFrame(frame)
  }, [made])
  return drawn
}

function placeInWords(document: MaterialDocument, place: Selection): string {
  const title = (id: string): string =>
    channelsOf(document)
      .find((channel) => channel.id === id)
      ?.title.toLowerCase() ?? id
  if (place.kind === 'channel') return title(place.channel)
  const layer = findLayer(document, place.layer)?.name ?? place.layer
  if (place.kind === 'cell') return `${layer} · ${title(place.channel)}`
  return place.kind === 'mask' ? `${layer} · mask` : layer
}

const tidied = (graph: NodeGraph, document: MaterialDocument): Places => tidyPlaces(graph, sizeOfCard(graph, document))
type Places = ReadonlyMap<string, [number, number]>

/** The tidy layout, made anew only when cards or wires change, not with every setting. */
function useTidy(graph: NodeGraph, document: MaterialDocument): Places {
  const shape = JSON.stringify([
    graph.nodes.map((id) => [id, document.nodes[id]!.type]),
    graph.outputCards.map((outputCard) => [outputCard.id, outputCard.ports.length]),
    graph.wires.map((wire) => wire.id),
  ])
  const [known, setKnown] = useState(() => ({ shape, places: tidied(graph, document) }))
  if (known.shape === shape) return known.places
  const places = tidied(graph, document)
  setKnown({ shape, places })
  return places
}

const sizeOfCard =
  (graph: NodeGraph, document: MaterialDocument) =>
  (card: string): CardSize =>
    card.startsWith(OUTPUT_CARD)
      ? outputCardSize(graph.outputCards.find((outputCard) => outputCard.id === card)!.ports.length)
      : cardSize(registry.get(document.nodes[card]?.type ?? ''))

/** Cards where the document says, and the others where there is room (placesOf). */
function cardsOf(graph: NodeGraph, document: MaterialDocument, selectedIds: readonly string[], tidy: Places): Card[] {
  const sizeOf = sizeOfCard(graph, document)
  const own = new Map(
    graph.nodes.flatMap((id) => (document.nodes[id]?.at ? [[id, document.nodes[id].at] as const] : [])),
  )
  const places = placesOf(graph, own, tidy, sizeOf)
  const position = (card: string): { x: number; y: number } => {
    const [x, y] = places.get(card)!
    return { x, y }
  }
  const nodes = graph.nodes.map((id): Node<CardData> => {
    const definition = registry.get(document.nodes[id]!.type)
    const types: Record<string, PortType | 'any'> = {}
    for (const port of Object.keys(definition?.outputs ?? {}))
      types[`out:${port}`] = graph.types.output(`${id}.${port}`)!
    for (const port of Object.keys(definition?.inputs ?? {})) types[`in:${port}`] = graph.types.input(id, port)!
    return {
      id,
      type: 'card',
      position: position(id),
      selected: selectedIds.includes(id),
      data: { types, faint: graph.near.size > 0 && !graph.near.has(id), size: sizeOf(id) },
    }
  })
  const outputCards = graph.outputCards.map((card): Node<OutputCardData> => ({
    id: card.id,
    type: 'outputCard',
    position: position(card.id),
    selectable: false,
    deletable: false,
    data: { card, size: sizeOf(card.id) },
  }))
  return [...nodes, ...outputCards]
}

/** "in:source" and "out:result" name ports by their ends. */
const portOf = (handle: string): string => handle.slice(handle.indexOf(':') + 1)

/** The rectangle that cards cover; their sizes are known before they are measured. */
function boxOf(cards: readonly Card[]): { x: number; y: number; width: number; height: number } | null {
  if (cards.length === 0) return null
  const xs = cards.map(({ position }) => position.x)
  const ys = cards.map(({ position }) => position.y)
  const rights = cards.map(({ position, data }) => position.x + data.size.width)
  const ends = cards.map(({ position, data }) => position.y + data.size.height)
  const [x, y] = [Math.min(...xs), Math.min(...ys)]
  return { x, y, width: Math.max(...rights) - x, height: Math.max(...ends) - y }
}

/** Where a box of cards is seen whole, at a zoom of at least so much; what must be read shows its end then, where the wires lead. */
function viewOf(box: NonNullable<ReturnType<typeof boxOf>>, width: number, height: number, minZoom: number): Viewport {
  const fit = Math.min(1, (width - 32) / box.width, (height - 24) / box.height)
  const zoom = Math.max(fit, minZoom)
  const wide = box.width * zoom > width - 32
  const x =
    wide && minZoom === LEGIBLE
      ? width - 16 - (box.x + box.width) * zoom
      : (width - box.width * zoom) / 2 - box.x * zoom
  return { x, y: (height - box.height * zoom) / 2 - box.y * zoom, zoom }
}

function Flow({ graph }: { graph: NodeGraph }) {
  const actions = useActions()
  const { id, control, view } = useMaterial()
  const document = useUndialled()
  const selectedIds = useView((one) => one.selectedNodes)
  const place = useView((one) => one.selection)
  const whole = useView((one) => one.wholeGraph)
  const flow = useReactFlow()
  const frame = useRef<HTMLDivElement>(null)
  const tidy = useTidy(graph, document)
  const wanted = useMemo(() => cardsOf(graph, document, selectedIds, tidy), [graph, document, selectedIds, tidy])
  const [cards, setCards] = useState<Card[]>(wanted)
  const [shownFor, setShownFor] = useState(wanted)
  if (shownFor !== wanted) {
    setShownFor(wanted)
    // Sizes that were measured stay, so that wires need not be measured anew.
    setCards(wanted.map((card) => ({ ...cards.find((one) => one.id === card.id), ...card })))
  }
  const edges = useMemo(
    () =>
      graph.wires.map((wire): Edge<WireData> => ({
        id: wire.id,
        type: 'wire',
        source: parsePort(wire.from).node,
        sourceHandle: `out:${parsePort(wire.from).port}`,
        target: wire.to.card,
        targetHandle: `in:${wire.to.port}`,
        ariaLabel: `Wire from ${wire.from} to ${wire.to.card}, ${wire.to.port}`,
        data: {
          type: wire.type,
          conversion: wire.conversion,
          faint: graph.near.size > 0 && !graph.near.has(parsePort(wire.from).node),
        },
      })),
    [graph],
  )
  const [chosenWires, setChosenWires] = useState<ReadonlySet<string>>(new Set())

  const placed = useRef(wanted)
  useEffect(() => {
    placed.current = wanted
  }, [wanted])

  // What is behind another place comes into view as it was left; the first time whole, if it can be read then.
  const subject = whole ? 'whole' : JSON.stringify(place)
  const [viewports] = useState(() => rememberedViewports(id))
  const fit = useCallback(
    (minZoom: number) => {
      const { width, height } = frame.current!.getBoundingClientRect()
      const box = boxOf(placed.current)
      if (box) void flow.setViewport(viewOf(box, width, height, minZoom))
    },
    [flow],
  )
  const isEmpty = graph.nodes.length === 0
  useEffect(() => {
    const frameId = requestAnimationFrame(() => {
      const known = viewports.get(subject)
      if (known) void flow.setViewport(known)
      else fit(whole ? 0.35 : LEGIBLE)
    })
    return () => cancelAnimationFrame(frameId)
  }, [subject, whole, isEmpty, viewports, flow, fit])

  // A node that is chosen wholly out of sight, as one that was added may be, comes into view at the zoom there is.
  const [chosen] = selectedIds
  useEffect(() => {
    const card = placed.current.find((one) => one.id === chosen)
    const frameId = requestAnimationFrame(() => {
      if (!card || !frame.current) return
      const { width, height } = frame.current.getBoundingClientRect()
      const { x, y, zoom } = flow.getViewport()
      const [left, top] = [card.position.x * zoom + x, card.position.y * zoom + y]
      const { size } = card.data
      if (left < width && top < height && left + size.width * zoom > 0 && top + size.height * zoom > 0) return
      void flow.setCenter(card.position.x + size.width / 2, card.position.y + size.height / 2, { zoom })
    })
    return () => cancelAnimationFrame(frameId)
  }, [chosen, flow])

  // Copy and paste as text: wherever the keyboard is, but not in a field.
  useEffect(() => {
    const typing = (): boolean => {
      const { activeElement } = window.document
      return activeElement !== null && activeElement.matches('input, textarea, select, [contenteditable]')
    }
    const inSheet = (): boolean => window.document.activeElement?.closest('[role=grid]') != null
    const copy = (event: ClipboardEvent): void => {
      const { selectedNodes } = view.getState()
      if (typing() || inSheet() || selectedNodes.length === 0 || !window.getSelection()?.isCollapsed) return
      event.preventDefault()
      event.clipboardData?.setData('text/plain', copyNodes(control.store.getState().document, selectedNodes))
      actions.notify(`${counted(selectedNodes.length, 'node')} copied as text.`)
    }
    const paste = (event: ClipboardEvent): void => {
      const text = event.clipboardData?.getData('text/plain') ?? ''
      if (typing() || inSheet() || !text.includes('amber-grist/nodes')) return
      event.preventDefault()
      actions.pasteNodes(text)
    }
    window.document.addEventListener('copy', copy)
    window.document.addEventListener('paste', paste)
    return () => {
      window.document.removeEventListener('copy', copy)
      window.document.removeEventListener('paste', paste)
    }
  }, [actions, control, view])

  /** The end of a wire as the actions know it. */
  const endOf = (card: string, handle: string): { node: string; port: string } | Selection => {
    const port = portOf(handle)
    if (!card.startsWith(OUTPUT_CARD)) return { node: card, port }
    return graph.outputCards.find((outputCard) => outputCard.id === card)!.ports.find((one) => one.id === port)!.place
  }
  const refusal = ({ source, sourceHandle, target, targetHandle }: Connection | Edge): string | null =>
    sourceHandle && targetHandle
      ? actions.refusal(`${source}.${portOf(sourceHandle)}`, endOf(target, targetHandle))
      : 'no port'

  const endConnecting = (event: MouseEvent | TouchEvent, state: FinalConnectionState): void => {
    const { fromHandle, toHandle, isValid, from } = state
    if (isValid || !fromHandle?.id || !from) return
    const outgoing = fromHandle.type === 'source'
    if (toHandle?.id) {
      if (toHandle.type === fromHandle.type)
        return actions.notify(
          outgoing ? 'Both are outputs; end the wire at an input.' : 'Both are inputs; end the wire at an output.',
        )
      const [source, target] = outgoing ? [fromHandle, toHandle] : [toHandle, fromHandle]
      const why = refusal({
        source: source.nodeId,
        sourceHandle: source.id!,
        target: target.nodeId,
        targetHandle: target.id!,
      })
      return actions.notify(why)
    }
    const { clientX, clientY } = 'changedTouches' in event ? event.changedTouches[0]! : event
    const under = window.document.elementFromPoint(clientX, clientY)
    if (!under || !frame.current!.contains(under)) return
    const card = under.closest<HTMLElement>('.react-flow__node')?.dataset.id
    if (card !== undefined && card !== fromHandle.nodeId) return dropOnCard(fromHandle, card)
    const { x, y } = flow.screenToFlowPosition({ x: clientX, y: clientY })
    const end = endOf(fromHandle.nodeId, fromHandle.id)
    const port = 'port' in end ? end.port : ''
    const type = outgoing
      ? graph.types.output(`${fromHandle.nodeId}.${port}`)
      : 'port' in end
        ? graph.types.input(end.node, end.port)
        : graph.outputCards
            .find((outputCard) => outputCard.id === fromHandle.nodeId)!
            .ports.find((one) => `in:${one.id}` === fromHandle.id)!.type
    actions.openPalette({
      kind: 'nodes',
      at: [Math.round(outgoing ? x : x - cardSize(undefined).width), Math.round(y - 40)],
      wire: {
        type: type === 'any' || !type ? 'grey' : type,
        loose: outgoing ? 'input' : 'output',
        fixed: 'port' in end ? end : { place: end },
      },
    })
  }

  /** A wire that ends on a card takes what fits it best there: a free input before one that is taken. */
  const dropOnCard = (from: { nodeId: string; id?: string | null; type: string }, card: string): void => {
    const port = portOf(from.id!)
    if (from.type === 'source') {
      const address = `${from.nodeId}.${port}`
      const target = card.startsWith(OUTPUT_CARD)
        ? graph.outputCards
            .find((outputCard) => outputCard.id === card)!
            .ports.map(({ place }) => place)
            .find((place) => actions.refusal(address, place) === null)
        : actions.inputFor(address, card)
      if (target) actions.connect(address, target)
      else actions.notify('Nothing here takes what this wire carries.')
      return
    }
    const output = card.startsWith(OUTPUT_CARD) ? null : actions.outputFor(card, endOf(from.nodeId, from.id!))
    if (output) actions.connect(output, endOf(from.nodeId, from.id!))
    else actions.notify('Nothing here gives what this wire needs.')
  }

  const change = (changes: NodeChange<Card>[]): void => {
    setCards((now) =>
      applyNodeChanges(
        changes.filter(({ type }) => type !== 'select' && type !== 'remove'),
        now,
      ),
    )
    const picks = changes.filter((one) => one.type === 'select')
    if (picks.length === 0) return
    const next = new Set(view.getState().selectedNodes)
    for (const { id, selected } of picks)
      if (selected) next.add(id)
      else next.delete(id)
    actions.selectNodes([...next].filter((id) => !id.startsWith(OUTPUT_CARD)))
  }

  const drop = useFileDrop((file, { clientX, clientY }) => {
    const { x, y } = flow.screenToFlowPosition({ x: clientX, y: clientY })
    void actions.dropImage(file, [Math.round(x), Math.round(y)])
  })

  const keys = (event: React.KeyboardEvent): void => {
    if ((event.target as HTMLElement).matches('input, select')) return
    const { selectedNodes } = view.getState()
    if ((event.ctrlKey || event.metaKey) && event.key === 'd' && selectedNodes.length > 0) {
      event.preventDefault()
      actions.duplicateNodes(selectedNodes)
    } else if (!event.ctrlKey && !event.metaKey && !event.altKey) {
      if (event.key === 'n') {
        event.preventDefault()
        actions.openPalette({ kind: 'nodes' })
      } else if (event.key === 'f') fit(MIN_ZOOM)
      else if (event.key === 'o' && selectedNodes[0]) actions.toggleEnabled({ node: selectedNodes[0] })
      else if (event.key === 'b' && selectedNodes[0]) actions.showWithout({ node: selectedNodes[0] })
    }
  }

  return (
    <div
      ref={frame}
      className={`relative min-h-0 flex-1 bg-raised ${drop.over ? 'outline-2 -outline-offset-4 outline-accent' : ''}`}
      onKeyDown={keys}
      onKeyUp={(event) => event.key === 'b' && actions.showWithout(null)}
      {...drop.handlers}
      onDoubleClick={(event) => {
        if (!(event.target as HTMLElement).classList.contains('react-flow__pane')) return
        const { x, y } = flow.screenToFlowPosition({ x: event.clientX, y: event.clientY })
        actions.openPalette({ kind: 'nodes', at: [Math.round(x), Math.round(y)] })
      }}
    >
      <ReactFlow
        nodes={cards}
        edges={edges.map((edge) => (chosenWires.has(edge.id) ? { ...edge, selected: true } : edge))}
        nodeTypes={NODE_TYPES}
        edgeTypes={WIRE_TYPES}
        onNodesChange={change}
        onEdgesChange={(changes) => {
          const next = new Set(chosenWires)
          for (const one of changes)
            if (one.type === 'select')
              if (one.selected) next.add(one.id)
              else next.delete(one.id)
          setChosenWires(next)
        }}
        onMoveEnd={(_, viewport) => viewports.set(subject, viewport)}
        onNodeDragStop={(_, __, moved) => {
          if (moved.length === 0) return
          // Cards that had no place of their own keep the one they were shown at.
          actions.placeNodes(
            new Map(
              cards
                .filter(({ id }) => !id.startsWith(OUTPUT_CARD))
                .map(({ id, position }) => [id, [Math.round(position.x), Math.round(position.y)]]),
            ),
          )
        }}
        onConnect={(connection) => {
          const { source, sourceHandle, target, targetHandle } = connection
          actions.connect(`${source}.${portOf(sourceHandle!)}`, endOf(target, targetHandle!))
        }}
        isValidConnection={(connection) => refusal(connection) === null}
        onConnectEnd={endConnecting}
        onBeforeDelete={async ({ nodes, edges: gone }) => {
          if (nodes.length > 0) actions.deleteNodes(nodes.map(({ id }) => id))
          else for (const edge of gone) unplug(edge)
          return false
        }}
        deleteKeyCode={['Delete', 'Backspace']}
        connectionLineType={ConnectionLineType.Bezier}
        connectionRadius={16}
        zoomOnDoubleClick={false}
        minZoom={MIN_ZOOM}
        maxZoom={MAX_ZOOM}
        proOptions={{ hideAttribution: true }}
      />
      <Button
        variant="quiet"
        aria-label="All of it in view"
        title="All of it in view (F)"
        onClick={() => fit(MIN_ZOOM)}
        disabled={isEmpty}
        className="absolute right-2 bottom-2"
      >
        <Maximize size={14} aria-hidden />
      </Button>
      {isEmpty && (
        <div
          className={`pointer-events-none absolute inset-0 grid justify-items-center text-ink-soft ${graph.outputCards.length > 0 ? 'top-6 items-start' : 'items-center'}`}
        >
          <p className="max-w-72 text-center">
            No node feeds this. Press Node, or double-click here, to make noise, cells, ramps or pictures and wire them
            in.
          </p>
        </div>
      )}
    </div>
  )

  function unplug(edge: Edge): void {
    const end = endOf(edge.target, edge.targetHandle!)
    if ('port' in end) actions.disconnect(end.node, end.port)
    else actions.clear(end)
  }
}
