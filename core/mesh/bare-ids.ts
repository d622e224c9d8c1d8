import type { IdKind } from '../picked-ids'
import type { Placed } from './file-sets'
import { bakerNamed } from './mesh-data'

/** IDs of a part that no material lies on. */
export interface BareIds {
  readonly kind: IdKind
  readonly numbers: readonly number[]
}

/**
 * The kind of ID by which a part may have places without a material: where none lies on all of it, and all that lie on it go by one
 * kind. Of several kinds one may cover what another leaves; then it is null.
 */
export function bareKind(placed: readonly Placed[], part: number): IdKind | null {
  const kinds = new Set(placed.filter((one) => one.part === part).map(({ ids }) => ids?.kind ?? null))
  return kinds.size === 1 ? [...kinds][0]! : null
}

/** Which of all numbers of that kind on a part have no material; null where all have. */
export function bareIds(placed: readonly Placed[], part: number, all: readonly number[]): BareIds | null {
  const kind = bareKind(placed, part)
  if (kind === null) return null
  const taken = new Set(placed.flatMap((one) => (one.part === part && one.ids ? one.ids.numbers : [])))
  const numbers = all.filter((number) => !taken.has(number))
  return numbers.length > 0 ? { kind, numbers } : null
}

/** What IDs of a kind are called in a list: "Pieces 1, 3". */
export const idsInWords = (kind: IdKind, numbers: readonly number[], most = Infinity): string =>
  `${bakerNamed(kind).title}${numbers.length === 1 ? '' : 's'} ${numbers.slice(0, most).join(', ')}${numbers.length > most ? ' …' : ''}`
