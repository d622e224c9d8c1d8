import type { MaskEntry } from './document'

/** The index of the lowest entry of an entry's group; its own where it is in none. */
export function startOfGroup(mask: readonly MaskEntry[], index: number): number {
  let start = index
  while (start > 0 && mask[start]!.joined) start--
  return start
}

/** Whether an entry is in a group, or others are with it. */
export const isGrouped = (mask: readonly MaskEntry[], index: number): boolean =>
  startOfGroup(mask, index) !== index || (mask[index + 1]?.joined ?? false)
