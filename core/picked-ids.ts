import { z } from 'zod'

/** Kinds of mesh data that tell places of a part apart by numbers. */
export const ID_KINDS = ['material-id', 'part-id', 'piece-id', 'island-id', 'colour-id'] as const
export type IdKind = (typeof ID_KINDS)[number]

/** Most numbers that are picked together. */
const MAX_IDS = 4096

/** Places of a part that have one of some numbers. */
export const pickedIds = z.strictObject({
  kind: z.enum(ID_KINDS),
  numbers: z.array(z.int().min(0).max(0xffffff)).min(1).max(MAX_IDS),
})

export type PickedIds = z.output<typeof pickedIds>
