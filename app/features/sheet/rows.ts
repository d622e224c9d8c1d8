import { channelOutput } from '#core/document/address'
import type { Output } from '#core/document/address'
import type { Layer, MaterialDocument } from '#core/document/document'
import { allLayers } from '#core/document/document'
import type { Selection } from '../../session/view'

/** A row of the sheet. */
export interface SheetRow {
  readonly layer: Layer
  readonly depth: number
  /** Off itself, or inside a group that is. */
  readonly disabled: boolean
}

/** Rows from the top down, as the layers lie; what folded groups hold is left out. */
export function sheetRows(
  layers: readonly Layer[],
  folded: ReadonlySet<string>,
  depth = 0,
  disabled = false,
): SheetRow[] {
  return [...layers].reverse().flatMap((layer) => {
    const off = disabled || layer.off === true
    const row = { layer, depth, disabled: off }
    return layer.kind === 'group' && !folded.has(layer.id)
      ? [row, ...sheetRows(layer.layers, folded, depth + 1, off)]
      : [row]
  })
}

/** Rows of the layers that match, folded or not, with the groups that they are in. */
export function matchingRows(layers: readonly Layer[], matches: (layer: Layer) => boolean): SheetRow[] {
  const all = sheetRows(layers, new Set())
  return all.filter(({ layer }) => [...allLayers([layer])].some(matches))
}

/** Whether a layer, or anything a group holds, has a cell in a channel. */
export const writesTo = (layer: Layer, channel: string): boolean =>
  [...allLayers([layer])].some((one) => one.kind !== 'group' && channel in (one as { cells: object }).cells)

/** Columns of the grid before the channels: the mask, then the layer itself. */
export const LEADING = ['mask', 'layer'] as const

/** The place of a grid cell. */
export function selectionAt(row: string, column: string): Selection {
  if (column === 'layer') return { kind: 'layer', layer: row }
  if (column === 'mask') return { kind: 'mask', layer: row, entry: null }
  return row === 'head' ? { kind: 'channel', channel: column } : { kind: 'cell', layer: row, channel: column }
}

/** The grid cell of a place. */
export function cellOf(place: Selection): { row: string; column: string } {
  if (place.kind === 'channel') return { row: 'head', column: place.channel }
  if (place.kind === 'cell') return { row: place.layer, column: place.channel }
  return { row: place.layer, column: place.kind }
}

/** Where an arrow key leads from a grid cell; the same cell at an edge. The head has no mask and no layer. */
export function stepFrom(
  rows: readonly SheetRow[],
  channels: readonly string[],
  { row, column }: { row: string; column: string },
  key: string,
): { row: string; column: string } {
  const lines = ['head', ...rows.map(({ layer }) => layer.id)]
  const columns = row === 'head' ? [...channels] : [...LEADING, ...channels]
  const line = Math.max(0, lines.indexOf(row))
  const at = Math.max(0, columns.indexOf(column))
  const clamp = (n: number, max: number): number => Math.min(max, Math.max(0, n))
  if (key === 'ArrowLeft') return { row, column: columns[clamp(at - 1, columns.length - 1)]! }
  if (key === 'ArrowRight') return { row, column: columns[clamp(at + 1, columns.length - 1)]! }
  if (key === 'Home') return { row, column: columns[0]! }
  if (key === 'End') return { row, column: columns.at(-1)! }
  const next = lines[clamp(line + (key === 'ArrowDown' ? 1 : -1), lines.length - 1)]!
  // From the mask or the layer itself there is nothing above the topmost row.
  if (next === 'head' && !channels.includes(column)) return { row, column }
  return { row: next, column }
}

/** Everything the sheet can show small: results, masks, what cells put in, and what groups come to. */
export function sheetOutputs(
  rows: readonly SheetRow[],
  channels: readonly string[],
  place: Selection | null,
): Output[] {
  const outputs = channels.map(channelOutput)
  for (const { layer } of rows) {
    if (layer.mask.length > 0) outputs.push({ kind: 'mask', layer: layer.id })
    if (place && place.kind === 'mask' && place.layer === layer.id)
      layer.mask.forEach((_, entry) => outputs.push({ kind: 'entry', layer: layer.id, entry }))
    for (const channel of channels)
      if (layer.kind === 'group') {
        if (writesTo(layer, channel)) outputs.push({ kind: 'layer', layer: layer.id, channel })
      } else if (channel in (layer as { cells: object }).cells) outputs.push({ kind: 'cell', layer: layer.id, channel })
  }
  return outputs
}

/** Numbers for the header: layers and groups. */
export function countLayers(document: Pick<MaterialDocument, 'layers'>): number {
  return [...allLayers(document.layers)].length
}
