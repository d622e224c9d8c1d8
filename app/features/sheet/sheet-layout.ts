/** Width of the frozen part (core band, mask, name) and of a cell, in CSS pixels. */
export const NAME_WIDTH = 232
export const CELL_WIDTH = 56

/** What is being dragged over the sheet. */
export type Dragged =
  | { kind: 'cell'; layer: string; channel: string }
  | { kind: 'layer'; layer: string; name: string }
  | { kind: 'mask'; layer: string; name: string }
