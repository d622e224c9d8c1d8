import type { Node, Viewport } from '@xyflow/react'
import { useEffect, useState } from 'react'
import type { MaterialDocument } from '#core/document/document'
import { unusedNodes } from '#core/document/edits/nodes'
import type { PortType } from '#core/field/field'
import { registry } from '#core/nodes/registry.generated'
import type { CardSize } from './card-size'
import { cardSize, fixedCardSize } from './card-size'
import type { BelowCardData, CardData, OutputCardData } from './node-card'
import type { FrameData } from './frame-view'
import { FRAME, FRAME_CARD } from './frame-view'
import type { NodeGraph } from './node-graph'
import { isNodeCard, placesOf, tidyPlaces } from './node-graph'

/** Below this zoom cards cannot be read. */
export const LEGIBLE = 0.72

export type Card = Node<CardData | OutputCardData | BelowCardData | FrameData>

/** "in:source" and "out:result" name ports by their ends. */
export const portOf = (handle: string): string => handle.slice(handle.indexOf(':') + 1)

export const tidied = (graph: NodeGraph, document: MaterialDocument): Places =>
  tidyPlaces(graph, sizeOfCard(graph, document))
export type Places = ReadonlyMap<string, [number, number]>

/** The tidy layout, made anew only when cards or wires change, not with every setting. */
export function useTidy(graph: NodeGraph, document: MaterialDocument): Places {
  const shape = JSON.stringify([
    graph.nodes.map((id) => [id, document.nodes[id]!.type]),
    graph.outputCards.map((outputCard) => [outputCard.id, outputCard.ports.length]),
    graph.belowCard?.channels.length,
    graph.wires.map((wire) => wire.id),
  ])
  const [known, setKnown] = useState(() => ({ shape, places: tidied(graph, document) }))
  if (known.shape === shape) return known.places
  const places = tidied(graph, document)
  setKnown({ shape, places })
  return places
}

/** Cards that are made in one go; a hundred at once would take the page for a third of a second. */
const PORTION = 10

/** The cards that may be made by now: those nearest to where wires end first, the others a few at a time. */
export function useArrived(cards: readonly Card[]): ReadonlySet<string> {
  const [arrived, setArrived] = useState<ReadonlySet<string>>(() => new Set(portionOf(cards)))
  const awaited = cards.some(({ id }) => !arrived.has(id))
  useEffect(() => {
    if (!awaited) return
    const timer = setTimeout(() => {
      const present = cards.filter(({ id }) => arrived.has(id)).map(({ id }) => id)
      setArrived(new Set([...present, ...portionOf(cards.filter(({ id }) => !arrived.has(id)))]))
    })
    return () => clearTimeout(timer)
  }, [cards, arrived, awaited])
  return arrived
}

const portionOf = (cards: readonly Card[]): string[] =>
  cards
    .toSorted((a, b) => b.position.x - a.position.x)
    .slice(0, PORTION)
    .map(({ id }) => id)

const sizeOfCard =
  (graph: NodeGraph, document: MaterialDocument) =>
  (card: string): CardSize =>
    isNodeCard(card)
      ? cardSize(registry.get(document.nodes[card]?.type ?? ''))
      : fixedCardSize(
          card === graph.belowCard?.id
            ? graph.belowCard.channels.length
            : graph.outputCards.find((outputCard) => outputCard.id === card)!.ports.length,
        )

/** Cards where the document says, and the others where there is room (placesOf). */
export function cardsOf(
  graph: NodeGraph,
  document: MaterialDocument,
  selectedIds: readonly string[],
  tidy: Places,
): Card[] {
  const sizeOf = sizeOfCard(graph, document)
  const own = new Map(
    graph.nodes.flatMap((id) => (document.nodes[id]?.at ? [[id, document.nodes[id].at] as const] : [])),
  )
  const places = placesOf(graph, own, tidy, sizeOf)
  const position = (card: string): { x: number; y: number } => {
    const [x, y] = places.get(card)!
    return { x, y }
  }
  const parked = new Set(unusedNodes(document))
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
      data: { types, faint: graph.near.size > 0 && !graph.near.has(id), parked: parked.has(id), size: sizeOf(id) },
    }
  })
  const fixed = (id: string) => ({ id, position: position(id), selectable: false, deletable: false })
  const outputCards = graph.outputCards.map((card): Node<OutputCardData> => ({
    ...fixed(card.id),
    type: 'outputCard',
    data: { card, size: sizeOf(card.id) },
  }))
  const { belowCard } = graph
  const below: Node<BelowCardData>[] = belowCard
    ? [{ ...fixed(belowCard.id), type: 'belowCard', data: { card: belowCard, size: sizeOf(belowCard.id) } }]
    : []
  return [...framesOf(document, nodes), ...nodes, ...below, ...outputCards]
}

/** A card around the shown nodes of each frame, below them. */
export function framesOf(document: MaterialDocument, cards: readonly Card[]): Node<FrameData>[] {
  return Object.keys(document.frames).flatMap((frame) => {
    const box = boxOf(cards.filter(({ id }) => document.nodes[id]?.frame === frame))
    if (!box) return []
    const { around, title } = FRAME
    const size = { width: box.width + 2 * around, height: box.height + around + title }
    return {
      id: `${FRAME_CARD}${frame}`,
      type: 'frame',
      position: { x: box.x - around, y: box.y - title },
      selectable: false,
      deletable: false,
      zIndex: -1,
      // Its ground lets presses through to the canvas; its name takes them.
      style: { pointerEvents: 'none' },
      // Known before it is measured, so that its name can be written at once.
      ...size,
      data: { frame, size },
    }
  })
}

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

/**
 * Where cards are seen whole, at a zoom of at least so much; what must be read shows its end then, where the wires lead: of what is
 * too tall that with a card in its middle.
 */
export function viewOf(cards: readonly Card[], width: number, height: number, minZoom: number): Viewport | null {
  const box = boxOf(cards)
  if (!box) return null
  const fit = Math.min(1, (width - 32) / box.width, (height - 24) / box.height)
  const zoom = Math.max(fit, minZoom)
  const wide = box.width * zoom > width - 32
  const x =
    wide && minZoom === LEGIBLE
      ? width - 16 - (box.x + box.width) * zoom
      : (width - box.width * zoom) / 2 - box.x * zoom
  const middle = box.y + box.height / 2
  const isTall = box.height * zoom > height - 24
  return { x, y: height / 2 - (isTall ? nearestEnd(cards, box, middle) : middle) * zoom, zoom }
}

/** The middle of the card that is nearest to a height, among those at the right end. */
function nearestEnd(cards: readonly Card[], box: NonNullable<ReturnType<typeof boxOf>>, middle: number): number {
  const right = box.x + box.width
  let [nearest, found] = [Infinity, middle]
  for (const { position, data } of cards) {
    if (position.x + data.size.width < right - data.size.width) continue
    const own = position.y + data.size.height / 2
    if (Math.abs(own - middle) >= nearest) continue
    nearest = Math.abs(own - middle)
    found = own
  }
  return found
}
