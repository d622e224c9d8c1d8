/** Width of the frozen part (core band, mask, name) and of a cell, with the size of text. */
export const NAME_WIDTH = '18.56rem'
export const CELL_WIDTH = '4.48rem'

/** What is being dragged over the sheet. */
export type Dragged =
  | { kind: 'cell'; layer: string; channel: string }
  | { kind: 'layer'; layer: string; name: string }
  | { kind: 'mask'; layer: string; name: string }
