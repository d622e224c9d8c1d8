import { z } from 'zod'
import type { PartFacts } from '#core/document/domain'
import type { PickedIds } from '#core/picked-ids'

/** A material that lies on a part, with its newest revision. */
export interface PlacedMaterial {
  readonly id: string
  readonly name: string
  readonly head: number
}

/** A material that lies on some IDs of a part; `slot` tells it from others there. */
export interface MaterialOnIds {
  readonly slot: number
  readonly ids: PickedIds
  readonly material: PlacedMaterial
}

/** A part of a model in one tile of its UVs, with the material that lies on it and what is known of its form. */
export interface ProjectPart {
  readonly part: number
  /** The UDIM number of the tile, of a part that lies in others too. */
  readonly udim?: number
  readonly name: string
  readonly triangles: number
  /** How many UV sets it has. */
  readonly uvSets: number
  readonly material: PlacedMaterial | null
  /** Later ones lie over earlier ones, all over `material`. */
  readonly onIds: readonly MaterialOnIds[]
  readonly facts: PartFacts
  /** Kinds of its mesh data that were made of something that has changed since. */
  readonly stale: readonly string[]
  /** Those of them that are drafts: smaller than they are to be. */
  readonly drafts: readonly string[]
}

/** A model of a project as materials on its parts see it. */
export interface ProjectParts {
  readonly id: string
  readonly name: string
  readonly mesh: string
  readonly uvSet: number
  /** In the order of parts; one in several tiles comes once for each. */
  readonly parts: readonly ProjectPart[]
}

/** A part by its model and its number, in one tile of its UVs where it lies in several: in the first where none is told. */
export const partPlace = z.strictObject({
  model: z.uuid(),
  part: z.int().min(0).max(1e6),
  udim: z.int().min(1001).max(9999).optional(),
})
export type PartPlace = z.output<typeof partPlace>

/** Materials for parts of a project, and which lies on which part of a model, by its number, or on IDs of it. */
export interface PlacedOn {
  readonly materials: readonly { readonly id: string; readonly name: string }[]
  readonly onPart: Readonly<Record<number, string>>
  readonly onIds: readonly {
    readonly part: number
    readonly slot: number
    readonly ids: PickedIds
    readonly material: string
  }[]
}
