/**
 * Whether two values are equal as JSON: members in any order, one that is undefined counts as absent. Quick where copies share
 * what did not change.
 */
export function sameJson(a: unknown, b: unknown): boolean {
  if (a === b) return true
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false
  if (Array.isArray(a) || Array.isArray(b))
    return Array.isArray(a) && Array.isArray(b) && a.length === b.length && a.every((entry, i) => sameJson(entry, b[i]))
  const [one, other] = [a, b] as Record<string, unknown>[]
  const present = (record: Record<string, unknown>): string[] =>
    Object.keys(record).filter((key) => record[key] !== undefined)
  const keys = present(one!)
  return (
    keys.length === present(other!).length &&
    keys.every((key) => Object.hasOwn(other!, key) && sameJson(one![key], other![key]))
  )
}

/** `after`, with every part that is equal to that of `before` being the very same object; all of `before` where all is equal. */
export function shared<T>(before: unknown, after: T): T {
  if (before === after || typeof before !== 'object' || typeof after !== 'object' || !before || !after) return after
  if (Array.isArray(before) !== Array.isArray(after)) return after
  const [one, other] = [before, after] as Record<string, unknown>[]
  const keys = Object.keys(other!)
  let equal = keys.length === Object.keys(one!).length
  const parts = keys.map((key): [string, unknown] => {
    const part = shared(one![key], other![key])
    equal &&= Object.hasOwn(one!, key) && part === one![key]
    return [key, part]
  })
  if (equal) return before as T
  return (Array.isArray(after) ? parts.map(([, part]) => part) : Object.fromEntries(parts)) as T
}
