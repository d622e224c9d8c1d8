import { parsePort } from '../address'
import { isNormal } from '../channels'
import type { Cell, MaterialDocument, Source } from '../document'
import { insertFragment, nodesFragment } from './fragment'
import { addMaskEntry, findLayer, findPlain, moveMaskEntry, setCell } from './layers'
import { freeNodeId } from './names'
import type { CellPlace } from './nodes'
import { feedersOf } from './nodes'

/**
 * Copies nodes with the wires among them and what dials set of them; wires from outside stay, wires to outside are not copied.
 * Gives new ids by old.
 */
export const duplicateNodes = (draft: MaterialDocument, ids: readonly string[]): ReadonlyMap<string, string> =>
  insertFragment(draft, nodesFragment(draft, ids)).nodes

/** Copies a cell to another place, with nodes of its own: later changes to one leave the other as it is. */
export function copyCell(draft: MaterialDocument, from: CellPlace, to: CellPlace): void {
  const cell = findPlain(draft, from.layer)?.cells[from.channel]
  if (!cell) return
  setCell(draft, to.layer, to.channel, { ...carried(cell, from, to), source: ownSource(draft, cell.source) })
}

/** Links a cell to another place: both read one source. A plain value becomes a node that both read. */
export function linkCell(draft: MaterialDocument, from: CellPlace, to: CellPlace): void {
  const cell = findPlain(draft, from.layer)?.cells[from.channel]
  if (!cell) return
  if ('value' in cell.source) {
    const { value } = cell.source
    const id = freeNodeId(draft, 'shared')
    const number = typeof value === 'number'
    draft.nodes[id] = { type: 'constant', name: 'Shared value', params: number ? { value } : { colour: value } }
    cell.source = { node: `${id}.${number ? 'grey' : 'colour'}` }
    redirectValueDrives(draft, from, id, number ? 'value' : 'colour')
  }
  setCell(draft, to.layer, to.channel, { ...carried(cell, from, to), source: { ...cell.source } })
}

/** Dials that set the value of a cell set the node that has taken its place. */
function redirectValueDrives(draft: MaterialDocument, from: CellPlace, node: string, field: string): void {
  for (const dial of draft.dials)
    dial.drives = dial.drives.map((drive) =>
      'channel' in drive && drive.field === 'value' && drive.layer === from.layer && drive.channel === from.channel
        ? { node, field, scale: drive.scale, offset: drive.offset }
        : drive,
    )
}

/** What goes along when a cell lands in another channel: the normal channel has blends of its own. */
export function carried(cell: Cell, from: CellPlace, to: CellPlace): Partial<Cell> {
  const { amount, encoding, blend } = cell
  const crosses = isNormal(from.channel) !== isNormal(to.channel)
  return crosses ? { amount, encoding } : { amount, encoding, blend }
}

/** Copies an entry of a mask to just above it, with nodes of its own. */
export function duplicateEntry(draft: MaterialDocument, layer: string, index: number): void {
  const entry = findLayer(draft, layer)?.mask[index]
  if (!entry) return
  const last = addMaskEntry(draft, layer, ownSource(draft, entry.source))
  const copy = findLayer(draft, layer)!.mask[last]!
  Object.assign(copy, { mode: entry.mode, amount: entry.amount, invert: entry.invert })
  // It stays in the group of what it copies.
  if (entry.joined || findLayer(draft, layer)!.mask[index + 1]!.joined) copy.joined = true
  moveMaskEntry(draft, layer, last, index + 1)
}

/** A source with copies of all nodes behind it. */
function ownSource(draft: MaterialDocument, source: Source): Source {
  const feeders = feedersOf(draft, source)
  if (feeders.length === 0 || !('node' in source)) return { ...source }
  const { node: id, port } = parsePort(source.node)
  return { node: `${duplicateNodes(draft, feeders).get(id)!}.${port}` }
}
