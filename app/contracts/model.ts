import type { BakeSettings } from '#core/mesh/bake-settings'
import type { MeshSummary } from '#core/mesh/mesh-summary'

export type { MeshSummary }

/** A model on its project's page. */
export interface ModelCard {
  readonly id: string
  readonly name: string
  readonly triangles: number
  readonly parts: number
  /** Swatches of its mesh data that stand for it; addresses. */
  readonly swatches: readonly string[]
  readonly mesh: string
  readonly changedAt: string
}

/** A mesh that goes with a model: its high twin or its cage. */
export interface CompanionMesh {
  readonly name: string
  readonly sha256: string
  readonly summary: MeshSummary
}

/** Mesh data that were made, of one tile. */
export interface MeshDataInfo {
  readonly part: number
  readonly kind: string
  readonly udim: number
  readonly sha256: string
  readonly width: number
  /** Texels at which the high twin was not met. */
  readonly missed: number
  /** False where what they were made from has changed since. */
  readonly fresh: boolean
  readonly madeAt: string
}

/** What was delivered of a model: the maps of its file sets in folders of their own, and the model that wears them. */
export interface ModelDelivery {
  readonly id: string
  readonly name: string
  readonly packing: string
  readonly width: number
  readonly sets: number
  readonly bytes: number
  readonly createdAt: string
}

/** A model with all that its page shows. */
export interface ModelPage {
  readonly id: string
  readonly name: string
  readonly project: { readonly id: string; readonly name: string }
  readonly fileName: string
  readonly mesh: string
  /** Whether it is laid out as its file has it. */
  readonly asCame: boolean
  readonly summary: MeshSummary
  readonly high: CompanionMesh | null
  readonly cage: CompanionMesh | null
  readonly settings: BakeSettings
  /** Which part shares the files of which: both by their numbers. */
  readonly joins: Readonly<Record<number, number>>
  readonly data: readonly MeshDataInfo[]
}
