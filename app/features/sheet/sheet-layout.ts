import type { Channel } from '#core/document/channels'
import type { SheetView } from '../../session/view'

/** Width of the frozen part (core band, mask, name) and of a cell, and height of a row; they go with the size of text. */
export const NAME_WIDTH = 'var(--sheet-name)'
export const CELL_WIDTH = 'var(--sheet-cell)'
export const ROW_HEIGHT = 'var(--sheet-row)'

/** Lengths of a sheet by the size of its swatches, in rem: columns get narrow as far as `cell` before any is cut off. */
const SIZES: Record<SheetView['size'], { row: number; swatch: number; mask: number; name: number; cell: number }> = {
  small: { row: 2.56, swatch: 2.16, mask: 2, name: 16.8, cell: 3.3 },
  medium: { row: 3.36, swatch: 2.72, mask: 2.4, name: 18.56, cell: 3.84 },
  large: { row: 5.2, swatch: 4.48, mask: 3.6, name: 20, cell: 5.6 },
}
/** The widest that a column is, beyond its swatch. */
const MARGIN = 1.76

/** What the sheet's elements are sized by, for so many columns. */
export function sheetLengths({ size }: SheetView, columns: number): React.CSSProperties {
  const { row, swatch, mask, name, cell } = SIZES[size]
  return {
    '--sheet-row': `${row}rem`,
    '--sheet-swatch': `${swatch}rem`,
    '--sheet-mask': `${mask}rem`,
    '--sheet-name': `${name}rem`,
    '--sheet-cell': `clamp(${cell}rem, (100cqw - ${name}rem) / ${Math.max(1, columns)}, ${swatch + MARGIN}rem)`,
  } as React.CSSProperties
}

/** The channels that have a column, in the order that was chosen; those of the document that are new come last. */
export function shownChannels(
  channels: readonly Channel[],
  { hidden, order, onlyUsed }: SheetView,
  isUsed: (channel: string) => boolean,
): Channel[] {
  const rank = (id: string): number => (order.includes(id) ? order.indexOf(id) : order.length)
  return channels
    .filter(({ id }) => !hidden.includes(id) && (!onlyUsed || isUsed(id)))
    .toSorted((a, b) => rank(a.id) - rank(b.id))
}

/** What is being dragged over the sheet. */
export type Dragged =
  | { kind: 'cell'; layer: string; channel: string }
  | { kind: 'layer'; layer: string; name: string }
  | { kind: 'mask'; layer: string; name: string }
