/** On which parts of models materials lie, by the names of both. */
export const PLACED: Readonly<Record<string, readonly { readonly model: string; readonly part: number }[]>> = {
  'limewashed-iron': [
    { model: 'Hand wheel', part: 0 },
    { model: 'Hand wheel', part: 1 },
    { model: 'Hand wheel', part: 2 },
  ],
  'limewashed-iron-drum': [
    { model: 'Float drum', part: 0 },
    { model: 'Float drum', part: 1 },
  ],
  enamel: [{ model: 'Depth board', part: 0 }],
  'waxed-canvas': [{ model: 'Tarpaulin', part: 0 }],
  sedge: [{ model: 'Sedge bank', part: 0 }],
}
