import type { Field } from '../field/field'

/**
 * Of a field on a part: by texel the nearest that belongs to the part, so that a texel is its own where that is itself; null where all
 * count, also where one number holds for the whole field or the table is of another size.
 */
export const ownTexelsOf = (field: Field, nearest: Int32Array | null): Int32Array | null =>
  nearest && field.stride !== 0 && nearest.length === field.width * field.height ? nearest : null
