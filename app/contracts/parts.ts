import { z } from 'zod'
import type { PartFacts } from '#core/document/domain'

/** A material that lies on a part, with its newest revision. */
export interface PlacedMaterial {
  readonly id: string
  readonly name: string
  readonly head: number
}

/** A part of a model, with the material that lies on it and what is known of its form. */
export interface ProjectPart {
  readonly part: number
  readonly name: string
  readonly triangles: number
  readonly material: PlacedMaterial | null
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
  readonly parts: readonly ProjectPart[]
}

/** A part by its model and its number. */
export const partPlace = z.strictObject({ model: z.uuid(), part: z.int().min(0).max(1e6) })
export type PartPlace = z.output<typeof partPlace>

/** Materials for parts of a project, and which lies on which part of a model, by its number. */
export interface PlacedOn {
  readonly materials: readonly { readonly id: string; readonly name: string }[]
  readonly onPart: Readonly<Record<number, string>>
}
