import { parsePort } from '#core/document/address'
import { Graph, layout } from '@dagrejs/dagre'
import type { PortType } from '#core/field/field'
import { CONVERSION_WORDS } from '#core/graph/conversions'
import type { Registry } from '#core/graph/registry'
import type { MaterialDocument, Source } from '#core/document/document'
import { allLayers } from '#core/document/document'
import type { PortTypes } from '#core/graph/port-types'
import { fitOf, openTypes, portTypes } from '#core/graph/port-types'
import { BELOW, asSource, inputSources, nodeOf, wireStart } from '#core/document/sources'
import { feedersOf, forEachSource } from '#core/document/edits/nodes'
import { findLayer, findPlain } from '#core/document/edits/layers'
import type { Channel } from '#core/document/channels'
import { channelsOf } from '#core/document/channels'
import type { Selection } from '../../session/view'
import type { CardSize } from './card-size'

/** A card at the end of the feeds: a cell or mask entry that takes a node's output in. */
export interface OutputCard {
  readonly id: string
  readonly layer: string
  readonly title: string
  readonly ports: readonly {
    readonly id: string
    readonly word: string
    readonly type: PortType
    readonly place: Selection
  }[]
}

/** The card of what lies below a correction: where wires into its operations begin. */
export interface BelowCard {
  readonly id: string
  readonly channels: readonly Channel[]
}

export interface Wire {
  readonly id: string
  /** "node.port", or a channel of what lies below (belowAddress). */
  readonly from: string
  readonly type: PortType
  readonly to: { readonly card: string; readonly port: string }
  /** What happens on the way, in words. */
  readonly conversion: string | null
}

export interface NodeGraph {
  readonly nodes: readonly string[]
  readonly outputCards: readonly OutputCard[]
  readonly belowCard: BelowCard | null
  readonly wires: readonly Wire[]
  /** Nodes that feed the chosen place. */
  readonly near: ReadonlySet<string>
  readonly types: PortTypes
}

export const OUTPUT_CARD = 'output:'

/** Whether a card is that of a node, and not of where wires begin or end. */
export const isNodeCard = (card: string): boolean => !card.includes(':')

/** What the nodes pane shows: the nodes behind a place, or all of them; nodes that are not behind it are faint. */
export function nodeGraph(
  document: MaterialDocument,
  registry: Registry,
  place: Selection | null,
  whole: boolean,
): NodeGraph {
  const types = portTypes(document, registry)
  const near = new Set(place ? sourcesOf(document, place).flatMap((source) => feedersOf(document, source)) : [])
  const all = Object.keys(document.nodes)
  const used = usedNodes(document)
  const loose = all.filter((id) => !used.has(id))
  const nodes = whole || !place ? all : all.filter((id) => near.has(id) || loose.includes(id))
  const outputCards = outputCardsOf(document, place, whole || !place)
  const belowCard = belowCardOf(document, nodes, outputCards, place)
  const shown = new Set([...nodes, ...(belowCard ? [belowCard.id] : [])])
  return { nodes, outputCards, belowCard, wires: wiresOf(document, registry, shown, outputCards, types), near, types }
}

/** What lies below, where a shown node or a shown end of wires reads it, or a cell of a correction is chosen. */
function belowCardOf(
  document: MaterialDocument,
  nodes: readonly string[],
  outputCards: readonly OutputCard[],
  place: Selection | null,
): BelowCard | null {
  const read = new Set<string>()
  const note = (source: Source): void => void ('backdrop' in source && read.add(source.backdrop))
  for (const id of nodes) inputSources(document.nodes[id]).forEach(note)
  for (const { ports } of outputCards) for (const port of ports) sourcesOf(document, port.place).forEach(note)
  if (place?.kind === 'cell' && findPlain(document, place.layer)?.kind === 'correction') read.add(place.channel)
  const channels = channelsOf(document).filter(({ id }) => read.has(id))
  return channels.length > 0 ? { id: BELOW, channels } : null
}

/** What a place reads. */
function sourcesOf(document: MaterialDocument, place: Selection): Source[] {
  if (place.kind === 'cell') {
    const cell = findPlain(document, place.layer)?.cells[place.channel]
    return cell ? [cell.source] : []
  }
  if (place.kind === 'channel')
    return [...allLayers(document.layers)].flatMap((layer) => {
      const cell = findPlain(document, layer.id)?.cells[place.channel]
      return cell ? [cell.source] : []
    })
  const layer = findLayer(document, place.layer)
  if (!layer) return []
  const mask = layer.mask.map((entry) => entry.source)
  if (place.kind === 'mask') return place.entry === null ? mask : mask.slice(place.entry, place.entry + 1)
  return [...mask, ...Object.values(findPlain(document, layer.id)?.cells ?? {}).map((cell) => cell.source)]
}

/** Nodes that something reads. */
function usedNodes(document: MaterialDocument): Set<string> {
  const used = new Set<string>()
  forEachSource(document, (source) => {
    const id = nodeOf(document, source)
    if (id !== null) used.add(id)
  })
  return used
}

function outputCardsOf(document: MaterialDocument, place: Selection | null, whole: boolean): OutputCard[] {
  const channels = channelsOf(document)
  const outputCards: OutputCard[] = []
  for (const layer of allLayers(document.layers)) {
    const mine = place && place.kind !== 'channel' && place.layer === layer.id
    const cells = findPlain(document, layer.id)?.cells ?? {}
    const fed = (source: Source): boolean => nodeOf(document, source) !== null
    const ports: OutputCard['ports'][number][] = []
    layer.mask.forEach((entry, index) => {
      const here =
        mine &&
        ((place.kind === 'mask' && (place.entry === null || place.entry === index)) ||
          (place.kind === 'layer' && fed(entry.source)))
      if (here || (whole && fed(entry.source)))
        ports.push({
          id: `mask${index}`,
          word: layer.mask.length > 1 ? `mask ${index + 1}` : 'mask',
          type: 'grey',
          place: { kind: 'mask', layer: layer.id, entry: index },
        })
    })
    if (mine && place.kind === 'mask' && layer.mask.length === 0)
      ports.push({ id: 'mask0', word: 'mask', type: 'grey', place: { kind: 'mask', layer: layer.id, entry: 0 } })
    for (const channel of channels) {
      const cell = cells[channel.id]
      const here =
        (mine && place.kind === 'cell' && place.channel === channel.id) ||
        (mine && place.kind === 'layer' && cell && fed(cell.source)) ||
        (place?.kind === 'channel' && place.channel === channel.id && cell)
      if (layer.kind !== 'group' && (here || (whole && cell && fed(cell.source))))
        ports.push({
          id: channel.id,
          word: channel.title.toLowerCase(),
          type: channel.type,
          place: { kind: 'cell', layer: layer.id, channel: channel.id },
        })
    }
    if (ports.length > 0)
      outputCards.push({ id: `${OUTPUT_CARD}${layer.id}`, layer: layer.id, title: layer.name, ports })
  }
  return outputCards
}

function wiresOf(
  document: MaterialDocument,
  registry: Registry,
  shown: ReadonlySet<string>,
  outputCards: readonly OutputCard[],
  types: PortTypes,
): Wire[] {
  const wires: Wire[] = []
  const add = (
    source: Source,
    card: string,
    port: string,
    to: PortType | 'any',
    allowed: readonly PortType[],
  ): void => {
    const from = wireStart(document, source)
    const type = from && types.output(from)
    if (!from || !type || !shown.has(parsePort(from).node)) return
    const fit = fitOf(type, to, allowed)
    const conversion =
      fit.kind === 'converted' ? `${fit.key.replace('>', ' → ')}, ${CONVERSION_WORDS[fit.key] ?? ''}` : null
    wires.push({ id: `${from}>${card}.${port}`, from, type, to: { card, port }, conversion })
  }
  for (const id of shown) {
    const node = document.nodes[id]
    if (!node) continue
    const definition = registry.get(node.type)
    for (const [port, input] of Object.entries(node.inputs ?? {}))
      add(asSource(input), id, port, types.input(id, port) ?? 'any', openTypes(definition, port))
  }
  for (const outputCard of outputCards)
    for (const { id, type, place } of outputCard.ports)
      for (const source of sourcesOf(document, place)) add(source, outputCard.id, id, type, [])
  return wires
}

type CardsAndWires = Pick<NodeGraph, 'nodes' | 'outputCards' | 'belowCard' | 'wires'>

const cardIds = ({ nodes, outputCards, belowCard }: CardsAndWires): string[] => [
  ...nodes,
  ...(belowCard ? [belowCard.id] : []),
  ...outputCards.map(({ id }) => id),
]

/** Places for cards, left to right along the wires; `fixed` ones stay where they are. */
export function tidyPlaces(graph: CardsAndWires, sizeOf: (card: string) => CardSize): Map<string, [number, number]> {
  const g = new Graph()
  g.setGraph({ rankdir: 'LR', nodesep: 14, ranksep: 38, marginx: 12, marginy: 12 })
  g.setDefaultEdgeLabel(() => ({}))
  const cards = cardIds(graph)
  for (const card of cards) g.setNode(card, { ...sizeOf(card) })
  for (const wire of graph.wires) g.setEdge(parsePort(wire.from).node, wire.to.card)
  layout(g)
  return new Map(
    cards.map((card) => {
      const { x, y, width, height } = g.node(card) as { x: number; y: number } & CardSize
      return [card, [Math.round(x - width / 2), Math.round(y - height / 2)]]
    }),
  )
}

/** Between cards that make room for each other. */
const GAP = 14

/**
 * Where cards stand: those with a place of their own there, whatever lies under them; the others as the tidy layout has them
 * beside what they are wired to, moved down to where they cover nothing.
 */
export function placesOf(
  graph: CardsAndWires,
  own: ReadonlyMap<string, readonly [number, number]>,
  tidy: ReadonlyMap<string, readonly [number, number]>,
  sizeOf: (card: string) => CardSize,
): Map<string, [number, number]> {
  const cards = cardIds(graph)
  const placed = new Map<string, [number, number]>()
  for (const card of cards) {
    const place = own.get(card)
    if (place) placed.set(card, [place[0], place[1]])
  }
  if (placed.size === 0) return new Map(cards.map((card) => [card, [...tidy.get(card)!] as [number, number]]))
  const beside = new Map<string, string[]>()
  for (const { from, to } of graph.wires) {
    const source = parsePort(from).node
    beside.set(source, [...(beside.get(source) ?? []), to.card])
    beside.set(to.card, [...(beside.get(to.card) ?? []), source])
  }
  /** How far cards stand from their tidy places, in the mean. */
  const shift = (of: readonly string[]): [number, number] => {
    const moves = of.map((card) => {
      const [now, then] = [placed.get(card)!, tidy.get(card)!]
      return [now[0] - then[0], now[1] - then[1]] as const
    })
    const mean = (axis: 0 | 1): number => moves.reduce((sum, move) => sum + move[axis], 0) / moves.length
    return [mean(0), mean(1)]
  }
  const rest = cards.filter((card) => !placed.has(card)).sort((a, b) => tidy.get(a)![0] - tidy.get(b)![0])
  for (const card of rest) {
    const near = (beside.get(card) ?? []).filter((one) => placed.has(one))
    const [dx, dy] = shift(near.length > 0 ? near : [...placed.keys()])
    const [x, y] = tidy.get(card)!
    placed.set(card, withRoom([Math.round(x + dx), Math.round(y + dy)], sizeOf(card), placed, sizeOf))
  }
  return placed
}

/** The place, or the nearest one below it where a card of this size covers no other. */
function withRoom(
  [x, y]: [number, number],
  { width, height }: CardSize,
  placed: ReadonlyMap<string, readonly [number, number]>,
  sizeOf: (card: string) => CardSize,
): [number, number] {
  let top = y
  const inWay = [...placed]
    .map(([card, [left, upper]]) => ({ left, upper, size: sizeOf(card) }))
    .filter(({ left, size }) => left < x + width + GAP && x < left + size.width + GAP)
    .sort((a, b) => a.upper - b.upper)
  for (const { upper, size } of inWay)
    if (upper < top + height + GAP && top < upper + size.height + GAP) top = upper + size.height + GAP
  return [x, top]
}
