import type { LayoutChange } from '#core/mesh/layout-change'
import type { MeshSummary } from '#core/mesh/mesh-summary'

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
