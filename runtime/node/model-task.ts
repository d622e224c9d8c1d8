import type { LayoutFacts } from '#core/mesh/layout-facts'

/** What the thread that reads models and lays them out is asked for. Files are named by their paths. */
export type ModelTask = { readonly out: string } & (
  | {
      readonly kind: 'import'
      readonly path: string
      /** What errors call it; its ending tells what it is. */
      readonly file: string
      readonly metresPerUnit: number
      /** A folder for the textures of its own materials. */
      readonly textures: string
    }
  | {
      readonly kind: 'lay out'
      /** A mesh as it is kept. */
      readonly mesh: string
      readonly how: LayoutChange
    }
)

/** A cure for a layout: of some parts, by their numbers. */
export interface LayoutChange {
  readonly cure: 'unwrap' | 'repack' | 'shift'
  readonly parts: readonly number[]
  readonly uvSet: number
  readonly size: number
  /** Texels between islands. */
  readonly spacing: number
}

/** What is known of a mesh without its arrays. */
export interface MeshSummary {
  readonly triangles: number
  readonly vertices: number
  readonly box: { readonly min: readonly number[]; readonly max: readonly number[] }
  readonly uvSets: number
  readonly colours: boolean
  readonly notes: readonly string[]
  readonly parts: readonly PartSummary[]
}

export interface PartSummary {
  readonly name: string
  readonly material: string | null
  readonly triangles: number
  /** How it lies in each of its UV sets, at a width of 1 texel: lengths in texels are times the width. */
  readonly layouts: readonly LayoutFacts[]
}

/** A texture of a file's own material, as a file. */
export interface FoundTexture {
  readonly material: string
  readonly role: string
  readonly path: string
  readonly ending: string
}

export interface ModelResult {
  readonly summary: MeshSummary
  readonly textures: readonly FoundTexture[]
}
