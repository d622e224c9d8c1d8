import { parsePort } from '#core/document/address'
import type { Connection, Edge, FinalConnectionState, NodeChange } from '@xyflow/react'
import { ConnectionLineType, ReactFlow, applyNodeChanges, useReactFlow } from '@xyflow/react'
import '@xyflow/react/dist/base.css'
import { Maximize } from 'lucide-react'
import { createPortal } from 'react-dom'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { Button } from '../../ui/button'
import type { ContextItem } from '../../ui/context-menu'
import { ContextMenu } from '../../ui/context-menu'
import { useFileDrop } from '../../ui/use-file-drop'
import { useActions, useMaterial, useUndialled, useView } from '../../session/material'
import { nodeTitle } from '../../session/words/source-words'
import type { End } from '../../session/actions/nodes'
import type { Selection } from '../../session/view'
import { framedNodes } from '#core/document/edits/frames'
import type { FrameData } from './frame-view'
import { FRAME_CARD, FrameView } from './frame-view'
import { BelowCardView, NodeCard, OutputCardView } from './node-card'
import type { WireData } from './wire'
import { NodeWire } from './wire'
import type { NodeGraph, Wire } from './node-graph'
import { MAX_ZOOM, MIN_ZOOM, rememberedViewports } from './viewports'
import { cardMenu, groundMenu } from './graph-menu'
import { pointOf, sheetCellAt, wireUnder } from './dragging'
import { isNodeCard } from './node-graph'
import { cardSize } from './card-size'
import type { Card } from './cards'
import { LEGIBLE, cardsOf, framesOf, portOf, useArrived, useTidy, viewOf } from './cards'

const NODE_TYPES = { card: NodeCard, outputCard: OutputCardView, belowCard: BelowCardView, frame: FrameView }
const WIRE_TYPES = { wire: NodeWire }

/** Pixels between what comes into view and the edge. */
const MARGIN = 12
/** How far what lies from `from` to `to` must move to be seen within `room`; its beginning where that is too little. */
const shiftInto = (from: number, to: number, room: number): number =>
  from < MARGIN ? MARGIN - from : to > room - MARGIN ? Math.max(room - MARGIN - to, MARGIN - from) : 0

/** Whether a node is not among those that feed the chosen place. */
const isFaint = ({ near }: NodeGraph, card: string): boolean => near.size > 0 && isNodeCard(card) && !near.has(card)

/** The cards and wires of a graph: moved, wired, put into wires, carried to the sheet. */
export function Flow({ graph }: { graph: NodeGraph }) {
  const actions = useActions()
  const { id, view, assets } = useMaterial()
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
  const arrived = useArrived(cards)
  const present = useMemo(() => cards.filter(({ id }) => arrived.has(id)), [cards, arrived])
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
          faint: isFaint(graph, isNodeCard(parsePort(wire.from).node) ? parsePort(wire.from).node : wire.to.card),
        },
      })),
    [graph],
  )
  /** A wire that was picked up at its end, until it is laid down. */
  const picked = useRef<Wire | null>(null)
  const [pickedId, setPickedId] = useState<string | null>(null)
  /** The wire that a dragged card would go into. */
  const [under, setUnder] = useState<Wire | null>(null)
  /** A card over the sheet: what it is, and where the pointer is. */
  const [carried, setCarried] = useState<{ id: string; x: number; y: number } | null>(null)
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
      const view = viewOf(placed.current, width, height, minZoom)
      if (view) void flow.setViewport(view)
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

  // A node that was just added comes into view as a whole; one that is chosen only where none of it is seen. The zoom stays.
  const [chosen] = selectedIds
  const known = useRef<ReadonlySet<string> | null>(null)
  useEffect(() => {
    const card = placed.current.find((one) => one.id === chosen)
    const added = known.current !== null && card !== undefined && !known.current.has(card.id)
    const frameId = requestAnimationFrame(() => {
      if (!card || !frame.current) return
      const { width, height } = frame.current.getBoundingClientRect()
      const { x, y, zoom } = flow.getViewport()
      const [left, top] = [card.position.x * zoom + x, card.position.y * zoom + y]
      const [right, bottom] = [left + card.data.size.width * zoom, top + card.data.size.height * zoom]
      if (left < width && top < height && right > 0 && bottom > 0) {
        if (added)
          void flow.setViewport({ x: x + shiftInto(left, right, width), y: y + shiftInto(top, bottom, height), zoom })
        return
      }
      const { size } = card.data
      void flow.setCenter(card.position.x + size.width / 2, card.position.y + size.height / 2, { zoom })
    })
    return () => cancelAnimationFrame(frameId)
  }, [chosen, flow])
  useEffect(() => {
    known.current = new Set(Object.keys(document.nodes))
  }, [document])

  /** The end of a wire as the actions know it. */
  const endOf = (card: string, handle: string): End => {
    const port = portOf(handle)
    // Wires begin at what lies below; that is told with a wire's other end.
    if (isNodeCard(card) || card === graph.belowCard?.id) return { node: card, port }
    return graph.outputCards.find((outputCard) => outputCard.id === card)!.ports.find((one) => one.id === port)!.place
  }
  const refusal = ({ source, sourceHandle, target, targetHandle }: Connection | Edge): string | null =>
    sourceHandle && targetHandle
      ? actions.refusal(`${source}.${portOf(sourceHandle)}`, endOf(target, targetHandle))
      : 'no port'

  const endConnecting = (event: MouseEvent | TouchEvent, state: FinalConnectionState): void => {
    const { fromHandle, toHandle, isValid, from } = state
    const wire = picked.current
    picked.current = null
    setPickedId(null)
    mark(null)
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
    const [clientX, clientY] = pointOf(event)
    const cell = outgoing ? sheetCellAt(clientX, clientY) : null
    if (cell) return lay(`${fromHandle.nodeId}.${portOf(fromHandle.id)}`, placeAt(cell), wire)
    const below = window.document.elementFromPoint(clientX, clientY)
    const card = below?.closest<HTMLElement>('.react-flow__node')?.dataset.id
    if (card !== undefined && card !== fromHandle.nodeId) return dropOnCard(fromHandle, card, wire)
    // A wire that was picked up and let go is cut.
    if (wire) return unplug(wire)
    if (!below || !frame.current!.contains(below)) return
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
  const dropOnCard = (
    from: { nodeId: string; id?: string | null; type: string },
    card: string,
    wire: Wire | null,
  ): void => {
    const port = portOf(from.id!)
    if (from.type === 'source') {
      const address = `${from.nodeId}.${port}`
      const target = !isNodeCard(card)
        ? (graph.outputCards.find((outputCard) => outputCard.id === card)?.ports ?? [])
            .map(({ place }) => place)
            .find((place) => actions.refusal(address, place) === null)
        : actions.inputFor(address, card)
      if (target) lay(address, target, wire)
      else actions.notify('Nothing here takes what this wire carries.')
      return
    }
    const output = !isNodeCard(card) ? null : actions.outputFor(card, endOf(from.nodeId, from.id!))
    if (output) actions.connect(output, endOf(from.nodeId, from.id!))
    else actions.notify('Nothing here gives what this wire needs.')
  }

  /** A frame takes its nodes along, and goes along with them. */
  const withFrames = (before: readonly Card[], now: readonly Card[], changes: readonly NodeChange<Card>[]): Card[] => {
    const moved = changes.find((one) => one.type === 'position' && one.id.startsWith(FRAME_CARD))
    if (!moved || moved.type !== 'position') {
      const frames = new Map(
        framesOf(
          document,
          now.filter(({ id }) => isNodeCard(id)),
        ).map((card) => [card.id, card]),
      )
      return now.map((card) => ({ ...card, ...(frames.get(card.id) ?? {}) }))
    }
    const was = before.find(({ id }) => id === moved.id)
    if (!was || !moved.position) return [...now]
    const [dx, dy] = [moved.position.x - was.position.x, moved.position.y - was.position.y]
    const inside = new Set(framedNodes(document, (was.data as FrameData).frame))
    return now.map((card) =>
      inside.has(card.id) ? { ...card, position: { x: card.position.x + dx, y: card.position.y + dy } } : card,
    )
  }

  const change = (changes: NodeChange<Card>[]): void => {
    setCards((now) =>
      withFrames(
        now,
        applyNodeChanges(
          changes.filter(({ type }) => type !== 'select' && type !== 'remove'),
          now,
        ),
        changes,
      ),
    )
    const picks = changes.filter((one) => one.type === 'select')
    if (picks.length === 0) return
    const next = new Set(view.getState().selectedNodes)
    for (const { id, selected } of picks)
      if (selected) next.add(id)
      else next.delete(id)
    actions.selectNodes([...next].filter((id) => isNodeCard(id)))
  }

  const drop = useFileDrop((files, { clientX, clientY }) => {
    const { x, y } = flow.screenToFlowPosition({ x: clientX, y: clientY })
    void actions.dropImages(files, { graph: [Math.round(x), Math.round(y)] })
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
      } else if (event.key === 'F2' && selectedNodes[0]) actions.setView({ renamingNode: selectedNodes[0] })
      else if (event.key === 'f') fit(MIN_ZOOM)
      else if (event.key === 'o' && selectedNodes[0]) actions.toggleEnabled({ node: selectedNodes[0] })
      else if (event.key === 'g' && selectedNodes.length > 0) {
        event.preventDefault()
        actions.frameNodes(selectedNodes)
      } else if (event.key === 'a' && selectedNodes[0]) actions.toggleSolo({ node: selectedNodes[0] })
      else if (event.key === 'b' && selectedNodes[0]) actions.showWithout({ node: selectedNodes[0] })
      else if (event.key === 't' && selectedNodes[0]) actions.nameFirstOutput(selectedNodes[0])
      else if ((event.key === '.' || event.key === ',') && selectedNodes[0])
        actions.audition('source', event.key === '.' ? 1 : -1, assets)
      else if ((event.key === '>' || event.key === '<') && selectedNodes[0])
        actions.audition('blend', event.key === '>' ? 1 : -1, assets)
    }
  }

  const menuAt = (target: Element, { x, y }: { x: number; y: number }): readonly ContextItem[] => {
    const card = target.closest<HTMLElement>('.react-flow__node')?.dataset.id
    if (card !== undefined && !isNodeCard(card)) return []
    if (card !== undefined) {
      const { selectedNodes } = view.getState()
      if (!selectedNodes.includes(card)) actions.selectNodes([card])
      return cardMenu(document, actions, selectedNodes, card, (node) => actions.setView({ renamingNode: node }))
    }
    const at = flow.screenToFlowPosition({ x, y })
    return groundMenu(actions, [Math.round(at.x), Math.round(at.y)], { fit: () => fit(MIN_ZOOM), whole })
  }

  return (
    <ContextMenu itemsFor={menuAt}>
      <div
        ref={frame}
        className={`relative min-h-0 flex-1 bg-raised ${drop.over ? 'outline-2 -outline-offset-4 outline-accent' : ''}`}
        onKeyDown={keys}
        onMouseDownCapture={pickUp}
        onKeyUp={(event) => event.key === 'b' && actions.showWithout(null)}
        {...drop.handlers}
        onDoubleClick={(event) => {
          if (!(event.target as HTMLElement).classList.contains('react-flow__pane')) return
          const { x, y } = flow.screenToFlowPosition({ x: event.clientX, y: event.clientY })
          actions.openPalette({ kind: 'nodes', at: [Math.round(x), Math.round(y)] })
        }}
      >
        <ReactFlow
          nodes={present}
          edges={edges.flatMap((edge) => {
            if (edge.id === pickedId || !arrived.has(edge.source) || !arrived.has(edge.target)) return []
            return chosenWires.has(edge.id) || edge.id === under?.id ? [{ ...edge, selected: true }] : [edge]
          })}
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
          onNodeDrag={(event, card, moved) => {
            const [x, y] = pointOf(event)
            const outside = isOutside(x, y) && moved.length === 1 && isNodeCard(card.id)
            setCarried(outside ? { id: card.id, x, y } : null)
            mark(outside ? (sheetCellAt(x, y)?.element ?? null) : null)
            setUnder(outside || moved.length !== 1 ? null : wireFor(card))
          }}
          onNodeDragStop={(event, card, moved) => {
            setCarried(null)
            mark(null)
            setUnder(null)
            if (moved.length === 0) return
            const [x, y] = pointOf(event)
            if (isOutside(x, y)) {
              // What was carried to the sheet goes back to where it stood.
              setCards(wanted)
              const cell = moved.length === 1 ? sheetCellAt(x, y) : null
              if (cell && isNodeCard(card.id)) actions.putNode(card.id, placeAt(cell))
              return
            }
            const into = moved.length === 1 ? wireFor(card) : null
            // Cards that had no place of their own keep the one they were shown at.
            actions.placeNodes(
              new Map(
                cards
                  .filter(({ id }) => isNodeCard(id))
                  .map(({ id, position }) => [id, [Math.round(position.x), Math.round(position.y)]]),
              ),
            )
            if (into) actions.insertIntoWire(card.id, into.from, endOf(into.to.card, `in:${into.to.port}`))
          }}
          onConnect={(connection) => {
            const { source, sourceHandle, target, targetHandle } = connection
            lay(`${source}.${portOf(sourceHandle!)}`, endOf(target, targetHandle!), picked.current)
          }}
          isValidConnection={(connection) => refusal(connection) === null}
          onConnectEnd={endConnecting}
          onBeforeDelete={async ({ nodes, edges: gone }) => {
            if (nodes.length > 0) actions.deleteNodes(nodes.map(({ id }) => id))
            else for (const edge of gone) unplug(graph.wires.find((one) => one.id === edge.id)!)
            return false
          }}
          deleteKeyCode={['Delete', 'Backspace']}
          connectionLineType={ConnectionLineType.Bezier}
          connectionRadius={16}
          onConnectStart={() => setPickedId(picked.current?.id ?? null)}
          autoPanOnConnect={false}
          autoPanOnNodeDrag={false}
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
          className="absolute right-2 bottom-2 min-h-[26px] min-w-[26px]"
        >
          <Maximize size={14} aria-hidden />
        </Button>
        {carried &&
          createPortal(
            <span
              className="pointer-events-none fixed z-50 rounded-md border border-accent bg-raised px-2 py-1 shadow-lg"
              style={{ left: carried.x + 12, top: carried.y + 8 }}
            >
              {nodeTitle(document, carried.id)}
            </span>,
            window.document.body,
          )}
        {isEmpty && (
          <div
            className={`pointer-events-none absolute inset-0 grid justify-items-center text-ink-soft ${graph.outputCards.length > 0 ? 'top-6 items-start' : 'items-center'}`}
          >
            <p className="max-w-72 text-center">
              No node feeds this. Press Node, or double-click here, to make noise, cells, ramps or pictures and wire
              them in.
            </p>
          </div>
        )}
      </div>
    </ContextMenu>
  )

  /** A press on an input that is wired takes the wire's end up: it goes on as one drawn from the other end. */
  function pickUp(event: React.MouseEvent): void {
    // The press that goes on from the other end comes by here too.
    if (event.button !== 0 || !event.isTrusted) return
    picked.current = null
    const handle = (event.target as Element).closest<HTMLElement>('.react-flow__handle.target')
    const { nodeid: card, handleid } = handle?.dataset ?? {}
    if (card === undefined || handleid === undefined) return
    const wire = graph.wires.find(({ to }) => to.card === card && to.port === portOf(handleid))
    if (!wire) return
    const { node, port } = parsePort(wire.from)
    const source = frame.current!.querySelector<HTMLElement>(
      `.react-flow__handle.source[data-nodeid="${CSS.escape(node)}"][data-handleid="${CSS.escape(`out:${port}`)}"]`,
    )
    if (!source) return
    event.preventDefault()
    event.stopPropagation()
    picked.current = wire
    const { clientX, clientY } = event
    source.dispatchEvent(new MouseEvent('mousedown', { bubbles: true, cancelable: true, button: 0, clientX, clientY }))
  }

  /** Connects an output; a wire that was picked up comes away from where it was. */
  function lay(from: string, to: End, wire: Wire | null): void {
    if (wire) actions.moveWire(from, endOf(wire.to.card, `in:${wire.to.port}`), to)
    else actions.connect(from, to)
  }

  /** The wire that a card lies on, where it is wired to nothing itself. */
  function wireFor(card: Card): Wire | null {
    if (!isNodeCard(card.id) || !actions.isUnwired(card.id)) return null
    return wireUnder(frame.current!, { ...card.position, ...card.data.size }, graph.wires)
  }

  function isOutside(x: number, y: number): boolean {
    const { left, right, top, bottom } = frame.current!.getBoundingClientRect()
    return x < left || x > right || y < top || y > bottom
  }

  function placeAt({ row: layer, column }: { row: string; column: string }): Selection {
    return column === 'mask' ? { kind: 'mask', layer, entry: null } : { kind: 'cell', layer, channel: column }
  }

  /** Marks the cell of the sheet that something is carried over, and no other. */
  function mark(cell: HTMLElement | null): void {
    for (const one of window.document.querySelectorAll('[data-landing]'))
      if (one !== cell) one.removeAttribute('data-landing')
    cell?.setAttribute('data-landing', 'yes')
  }

  function unplug({ to }: Wire): void {
    const end = endOf(to.card, `in:${to.port}`)
    if ('port' in end) actions.disconnect(end.node, end.port)
    else actions.clear(end)
  }
}
