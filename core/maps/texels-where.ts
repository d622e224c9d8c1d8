import type { Field } from '../field/field'

/** The share of a field's texels that are so, and the middle of the first one found, in tile units. */
export function texelsWhere(
  field: Field,
  is: (x: number, y: number) => boolean,
): { share: number; at?: [number, number] } {
  let count = 0
  let at: [number, number] | undefined
  for (let y = 0; y < field.rows; y++)
    for (let x = 0; x < field.width; x++) {
      if (!is(x, y)) continue
      count++
      at ??= [(x + 0.5) / field.width, (y + 0.5) / field.height]
    }
  return { share: count / (field.width * field.rows), at }
}
