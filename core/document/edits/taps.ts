import { parsePort } from '../address'
import type { MaterialDocument, Source, Tap } from '../document'
import { findLayer, findPlain } from './layers'
import { freeId, freeName, freeNodeId, idFrom } from './names'
import type { Use } from './nodes'
import { forEachSource } from './nodes'

/** What a result can be named of: an output of a node, what a layer puts into a channel, a mask. */
export type Nameable =
  | { readonly node: string; readonly port: string }
  | { readonly layer: string; readonly channel: string }
  | { readonly layer: string; readonly mask: true }

/** What a named result is called. */
export const tapName = ({ taps }: Pick<MaterialDocument, 'taps'>, id: string): string =>
  (Object.hasOwn(taps, id) ? taps[id]!.name : undefined) ?? id.replaceAll('-', ' ')

/** Names a result, to be read anywhere. A plain value of a cell becomes a node for it. Gives its id; null where there is nothing. */
export function nameResult(draft: MaterialDocument, what: Nameable, wanted: string): string | null {
  const made = tapOf(draft, what)
  if (!made) return null
  const name = freeName(
    wanted,
    Object.keys(draft.taps).map((id) => tapName(draft, id)),
  )
  const id = freeId(idFrom(name, 'result'), (one) => Object.hasOwn(draft.taps, one))
  draft.taps[id] = { ...made, name }
  return id
}

function tapOf(draft: MaterialDocument, what: Nameable): Tap | null {
  if ('node' in what) return Object.hasOwn(draft.nodes, what.node) ? { node: `${what.node}.${what.port}` } : null
  if ('mask' in what) return findLayer(draft, what.layer)?.mask.length ? { layer: what.layer, mask: true } : null
  const cell = findPlain(draft, what.layer)?.cells[what.channel]
  if (!cell) return null
  if ('node' in cell.source) return { node: cell.source.node }
  if (!('value' in cell.source)) return { layer: what.layer, channel: what.channel }
  const { value } = cell.source
  const number = typeof value === 'number'
  const id = freeNodeId(draft, 'shared')
  draft.nodes[id] = { type: 'constant', params: number ? { value } : { colour: value } }
  const port = `${id}.${number ? 'grey' : 'colour'}`
  cell.source = { node: port }
  return { node: port }
}

/** Where a named result is read. */
export function usesOfTap(document: MaterialDocument, id: string): Use[] {
  const uses: Use[] = []
  forEachSource(document, (source, _, at) => {
    if ('tap' in source && source.tap === id) uses.push(at)
  })
  return uses
}

/** Gives a named result another name. */
export function renameTap(draft: MaterialDocument, id: string, name: string): void {
  if (name.trim() !== '' && Object.hasOwn(draft.taps, id)) draft.taps[id]!.name = name.trim().slice(0, 200)
}

/** Takes a name away: what read it by its name reads the node itself, or nothing where there is none. */
export function unnameResult(
  draft: MaterialDocument,
  id: string,
  drop: (draft: MaterialDocument, id: string) => void,
): void {
  const tap = draft.taps[id]
  if (!tap) return
  if ('node' in tap)
    forEachSource(draft, (source, write) => {
      if ('tap' in source && source.tap === id) write({ node: tap.node } satisfies Source)
    })
  drop(draft, id)
}

/** The node that a tap is of; null where it is of a layer. */
export const nodeOfTap = (tap: Tap): string | null => ('node' in tap ? parsePort(tap.node).node : null)
