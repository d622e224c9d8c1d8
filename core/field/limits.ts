/**
 * The largest magnitude a kernel stores. Products of two such values, and sums of a million, stay finite in float32,
 * so that no chain of nodes can make Infinity or NaN. Own derivation: (1e18)² = 1e36 < 3.4e38.
 */
export const VALUE_LIMIT = 1e18

/** A value as fields may hold it: finite, within the limit, 0 for NaN, +0 for −0. */
export function bounded(value: number): number {
  if (value > VALUE_LIMIT) return VALUE_LIMIT
  if (value < -VALUE_LIMIT) return -VALUE_LIMIT
  return value === value ? value + 0 : 0
}
