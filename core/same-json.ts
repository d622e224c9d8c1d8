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
