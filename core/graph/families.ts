/** Shelves of the node list, in the order they are shown; conversions are put in by the tool itself. */
export const FAMILIES = [
  'make',
  'shape',
  'tone',
  'combine',
  'move',
  'filter',
  'surface',
  'mesh',
  'channel',
  'conversion',
] as const
export type Family = (typeof FAMILIES)[number]
