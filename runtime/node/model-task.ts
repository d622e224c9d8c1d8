import type { LayoutChange } from '#core/mesh/layout-change'

/** What a thread is asked to make a mesh of, which it writes to `out` as meshes are kept. Files are named by their paths. */
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

/** What a thread is asked to find out of a mesh that is kept: one of the two things that a summary is put together of. */
export interface LookTask {
  readonly kind: 'overlaps' | 'beside overlaps'
  readonly mesh: string
}

/** A texture of a file's own material, as a file. */
export interface FoundTexture {
  readonly material: string
  readonly role: string
  readonly path: string
  readonly ending: string
}
