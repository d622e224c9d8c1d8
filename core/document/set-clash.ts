import type { SetSlot } from './document-of-set'

/** A channel that two files of a set hold. */
export interface SetClash {
  readonly channel: string
  readonly files: readonly [string, string]
}

/** What more than one file holds: a set can have each channel once. */
export function setClashes(
  files: readonly { readonly name: string; readonly slots: readonly SetSlot[] }[],
): SetClash[] {
  const first = new Map<string, string>()
  const clashes: SetClash[] = []
  for (const { name, slots } of files)
    for (const channel of new Set(slots.flatMap((slot) => slot.channel ?? []))) {
      const other = first.get(channel)
      if (other === undefined) first.set(channel, name)
      else clashes.push({ channel, files: [other, name] })
    }
  return clashes
}
