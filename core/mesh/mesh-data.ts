import { FIRST_TILE } from '../document/domain'
import { canonicalJson, hashText } from '../hash'
import type { BakeOptions, Baker } from './baker'
import { bakers } from './bakers/bakers.generated'
import type { BakeSettings } from './bake-settings'

/** Raised whenever a bake gives other bits than before. */
const BAKE_VERSION = 6

/** The contents a bake is made from, by their hashes. */
export interface ModelContents {
  readonly mesh: string
  readonly high: string | null
  readonly cage: string | null
}

/** Mesh data of a part: one kind in one tile. */
export interface MeshDataPlace {
  /** Number of the part in the mesh, from 0. */
  readonly part: number
  readonly kind: string
  /** UDIM number of the tile. */
  readonly udim: number
}

/** Whether a kind is made differently where a high twin is there. */
const readsHigh = ({ reads }: Baker): boolean => reads === 'model'

/**
 * A hash of all that the bits of mesh data depend on: the same key, the same bits. Options that a kind does not use do not count, nor
 * how many threads do it.
 */
export function meshDataKey(
  contents: ModelContents,
  { part, kind, udim }: MeshDataPlace,
  { size, samples, padding, uvSet, transferImage }: BakeSettings,
  options: BakeOptions,
): string {
  const baker = bakerNamed(kind)
  const high = readsHigh(baker) ? contents.high : null
  return hashText(
    canonicalJson({
      version: BAKE_VERSION,
      ...{ kind, part, udim, uvSet, size, samples, padding },
      mesh: contents.mesh,
      high,
      cage: high !== null && baker.uses.includes('front') ? contents.cage : null,
      image: baker.needsTexture ? transferImage : undefined,
      options: Object.fromEntries(
        baker.uses.filter((name) => options[name] !== AS_BEFORE[name]).map((name) => [name, options[name]]),
      ),
    }),
  )
}

/** Options that came later: at these, keys are those of before. */
const AS_BEFORE: Partial<BakeOptions> = { rayStep: 1, transferBy: 0 }

/** A kind of mesh data by its name; there must be one. */
export const bakerNamed = (name: string): Baker => bakers.find((one) => one.name === name)!

/**
 * Kinds that are made together, as they read the same: in the order of their first. A draft is all of them at once: it takes less time
 * than finding the samples anew for each.
 */
export function bakedTogether(kinds: readonly Baker[], { rayStep }: Pick<BakeSettings, 'rayStep'>): Baker[][] {
  if (rayStep > 1 && kinds.length > 0) return [[...kinds]]
  const groups = new Map<string, Baker[]>()
  for (const kind of kinds) {
    const key = [...kind.uses].sort().join() || 'nothing'
    groups.set(key, [...(groups.get(key) ?? []), kind])
  }
  // What takes no rays is there at once.
  return [...groups.values()].sort((a, b) => Number(b[0]!.uses.length === 0) - Number(a[0]!.uses.length === 0))
}

/** Kinds that can be made of a model: those of a high twin, of vertex colours, of an image only where they are. */
export const kindsFor = ({
  high,
  colours,
  texture,
}: {
  readonly high: boolean
  readonly colours: boolean
  readonly texture: boolean
}): Baker[] =>
  bakers.filter(
    ({ needsHigh, needsTexture, name }) =>
      (high || !needsHigh) &&
      (texture || !needsTexture) &&
      (colours || (name !== 'vertex-colour' && name !== 'colour-id')),
  )

/** Where a tile of UVs lies: its left and top edge. */
export const tilePlace = (udim: number): { left: number; top: number } => ({
  left: (udim - FIRST_TILE) % 10,
  top: -Math.floor((udim - FIRST_TILE) / 10),
})

/** Tiles that a part is baked in. */
export const tilesOf = (
  tiles: readonly number[],
  { outside }: Pick<BakeSettings, 'outside'>,
  // Where it has no UVs, or lies outside of every tile, the bake tells.
): readonly number[] => (outside === 'repeats' || tiles.length === 0 ? [FIRST_TILE] : tiles)
