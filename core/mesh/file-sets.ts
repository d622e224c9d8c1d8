import { FIRST_TILE } from '../document/domain'
import type { PickedIds } from '../picked-ids'

/** What lies on a part, or on some IDs of it. */
export interface Placed {
  readonly part: number
  readonly ids?: PickedIds
}

/** A file set: what lies on one tile of the UVs of parts that share their files. */
export interface PlannedSet<T extends Placed> {
  /** The part that it has its name of. */
  readonly part: number
  /** The UDIM number of the tile; absent where these parts lie in 0–1 alone. */
  readonly udim?: number
  /** In the order of parts; on a part what lies on all of it first. */
  readonly placed: readonly T[]
}

/**
 * File sets of a model: one for each tile of each part, or of the parts that share their files. `joins` tells whose files a part joins,
 * `tilesOf` in which tiles it lies.
 */
export function fileSets<T extends Placed>(
  placed: readonly T[],
  joins: Readonly<Record<number, number>>,
  tilesOf: (part: number) => readonly number[],
): PlannedSet<T>[] {
  const groups = new Map<number, T[]>()
  for (const one of placed) {
    const owner = ownerOf(one.part, joins)
    groups.set(owner, [...(groups.get(owner) ?? []), one])
  }
  return [...groups]
    .sort(([a], [b]) => a - b)
    .flatMap(([part, own]) => {
      own.sort((a, b) => a.part - b.part || Number(a.ids !== undefined) - Number(b.ids !== undefined))
      const tiles = [...new Set(own.flatMap((one) => tilesOf(one.part)))].sort((a, b) => a - b)
      if (tiles.every((udim) => udim === FIRST_TILE)) return [{ part, placed: own }]
      return tiles.map((udim) => ({ part, udim, placed: own.filter((one) => tilesOf(one.part).includes(udim)) }))
    })
}

/** The part whose file set a part is in: itself, or the one whose files it joins. */
export const ownerOf = (part: number, joins: Readonly<Record<number, number>>): number => joins[part] ?? part

/** What joins what once `part` joins the files of `other`, and those that share with it too; with itself it has its own again. */
export function sharing(joins: Readonly<Record<number, number>>, part: number, other: number): Record<number, number> {
  const next = { ...joins }
  const owner = ownerOf(other, joins)
  if (other === part) delete next[part]
  else if (owner !== part)
    for (const one of [part, ...Object.keys(joins).map(Number)])
      if (one === part || joins[one] === part) next[one] = owner
  return next
}
