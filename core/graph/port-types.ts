import { parsePort } from '../document/address'
import type { PortType } from '../field/field'
import { CONVERSIONS, REFUSED } from './conversions'
import type { AnyNode } from './define-node'
import type { Registry } from './registry'
import { FAMILIES } from './families'
import type { DocumentNode, MaterialDocument, Source } from '../document/document'
import { CHANNELS } from '../document/channels'
import { BELOW, asSource } from '../document/sources'
import { typeTitle } from './titles'

/**
 * The one type of a node's `same` ports from what is connected to them: colour if any is colour, else the first that is
 * allowed, else the first allowed one it can be converted to; null where nothing connected leads to one.
 */
export function sharedType(allowed: readonly PortType[], connected: readonly PortType[]): PortType | null {
  const fitting = connected.filter((type) => allowed.includes(type))
  if (fitting.includes('colour')) return 'colour'
  if (fitting.length) return fitting[0]!
  if (!connected.length) return allowed[0]!
  return allowed.find((type) => CONVERSIONS[`${connected[0]!}>${type}`]) ?? null
}

/** What ports carry in a document as it stands, broken or not. */
export interface PortTypes {
  /** Type of the output "node.port", or of what lies below (belowAddress); null where there is no such port. */
  output(address: string): PortType | null
  /** Type an input expects; `same` ports that are free to become anything say so. */
  input(node: string, port: string): PortType | 'any' | null
}

/** Works port types out without building a graph, so that unfinished and circular ones have types too. */
export function portTypes(document: MaterialDocument, registry: Registry): PortTypes {
  const memo = new Map<string, PortType>()
  const under = new Set<string>()
  const definition = (id: string): AnyNode | undefined => {
    const node = Object.hasOwn(document.nodes, id) ? document.nodes[id] : undefined
    return node && registry.get(node.type)
  }
  const ofSource = (source: Source): PortType | null => {
    if ('value' in source) return typeof source.value === 'number' ? 'grey' : 'colour'
    if ('node' in source) return output(source.node)
    if ('backdrop' in source) return channelType(document, source.backdrop)
    const tap = document.taps[source.tap]
    if (!tap) return null
    if ('node' in tap) return output(tap.node)
    return 'mask' in tap ? 'grey' : channelType(document, tap.channel)
  }
  const shared = (id: string): PortType => {
    const known = memo.get(id)
    if (known) return known
    const node = definition(id)!
    const allowed = node.genericTypes!
    if (under.has(id)) return allowed[0]!
    under.add(id)
    const connected = connectedTo(node, document.nodes[id]!, ofSource)
    under.delete(id)
    const type = sharedType(allowed, connected) ?? allowed[0]!
    memo.set(id, type)
    return type
  }
  const output = (address: string): PortType | null => {
    const { node: id, port } = parsePort(address)
    if (id === BELOW) return channelType(document, port)
    const node = definition(id)
    if (!node || !Object.hasOwn(node.outputs, port)) return null
    const { type } = node.outputs[port]!
    return type === 'any' ? shared(id) : type
  }
  return {
    output,
    input: (id, port) => {
      const node = definition(id)
      if (!node || !Object.hasOwn(node.inputs, port)) return null
      const { type } = node.inputs[port]!
      if (type !== 'any') return type
      return connectedTo(node, document.nodes[id]!, ofSource).length > 0 ? shared(id) : 'any'
    },
  }
}

function connectedTo(node: AnyNode, at: DocumentNode, ofSource: (source: Source) => PortType | null): PortType[] {
  return Object.entries(node.inputs)
    .filter(([name, port]) => port.type === 'any' && at.inputs?.[name] !== undefined)
    .map(([name]) => ofSource(asSource(at.inputs![name]!)))
    .filter((type) => type !== null)
}

const channelType = (document: MaterialDocument, id: string): PortType | null =>
  CHANNELS.find((channel) => channel.id === id)?.type ?? document.channels[id]?.type ?? null

/** How a wire connects: as it is, through a conversion, or not at all and why. */
export type Fit = { kind: 'same' } | { kind: 'converted'; key: string } | { kind: 'refused'; reason: string }

/** Judges a wire from an output of type `from` into an input of type `to`. `allowed` are the types of a `same` port. */
export function fitOf(from: PortType, to: PortType | 'any', allowed: readonly PortType[] = []): Fit {
  if (to === 'any') {
    if (allowed.includes(from)) return { kind: 'same' }
    const target = sharedType(allowed, [from])
    return target ? { kind: 'converted', key: `${from}>${target}` } : refused(from, ...allowed)
  }
  if (from === to) return { kind: 'same' }
  // Colour turns a node that can carry colour into one that does.
  if (from === 'colour' && allowed.includes('colour')) return { kind: 'same' }
  const key = `${from}>${to}`
  return CONVERSIONS[key] ? { kind: 'converted', key } : refused(from, to)
}

/** The types that a node's input may still become: those of its `same` ports, none where its type is fixed. */
export const openTypes = (node: AnyNode | undefined, port: string): readonly PortType[] =>
  node?.inputs[port]?.type === 'any' ? (node.genericTypes ?? []) : []

const refused = (from: string, ...to: readonly string[]): Fit => ({
  kind: 'refused',
  reason:
    `This wire carries ${typeTitle(from)} and the port takes ${to.map(typeTitle).join(' or ')}. ${REFUSED[`${from}>${to.join()}`] ?? ''}`.trim(),
})

/** A node type that could stand at the end of a loose wire, and the port to take. */
export interface Fitting {
  readonly node: AnyNode
  readonly port: string
  readonly converted: boolean
}

/** The port of a node that suits a loose wire best: an exact type before a conversion, an earlier port before a later. */
export function fittingPort(
  node: AnyNode,
  type: PortType,
  end: 'input' | 'output',
): (Fitting & { rank: number }) | null {
  const allowed = node.genericTypes ?? []
  const fitOfPort = (port: { type: PortType | 'any' }): Fit => {
    if (end === 'input') return fitOf(type, port.type, port.type === 'any' ? allowed : [])
    if (port.type !== 'any') return fitOf(port.type, type)
    return fitOf(allowed.includes(type) ? type : allowed[0]!, type)
  }
  const ranked = Object.entries(end === 'input' ? node.inputs : node.outputs).flatMap(([name, port], index) => {
    const { kind } = fitOfPort(port)
    if (kind === 'refused') return []
    // What makes a type comes before what only lets it through.
    const through = end === 'output' && port.type === 'any' ? 100 : 0
    const rank = (kind === 'converted' ? 1000 : through) + index
    return [{ node, port: name, converted: kind === 'converted', rank }]
  })
  return ranked.sort((a, b) => a.rank - b.rank)[0] ?? null
}

/**
 * Node types for a loose wire, best first: exact types before conversions, a first port before a later one, and of
 * equals the shelves' own order; before all, at a wire from an output, nodes that say they are usual there. `end` says which end is loose: a wire from an output looks for inputs.
 */
export function fittingNodes(registry: Registry, type: PortType, end: 'input' | 'output'): Fitting[] {
  const unusual = ({ node, converted }: Fitting): number =>
    end === 'input' && !converted && node.usualFor?.includes(type) ? 0 : 1
  return [...registry.values()]
    .filter((node) => node.family !== 'conversion')
    .flatMap((node) => fittingPort(node, type, end) ?? [])
    .sort(
      (a, b) =>
        unusual(a) - unusual(b) || a.rank - b.rank || FAMILIES.indexOf(a.node.family) - FAMILIES.indexOf(b.node.family),
    )
}
