import type { MapDifference } from '#core/texture/compare'

/** One map of two deliveries: what became of it. */
export interface ComparedMap {
  readonly map: string
  readonly before: { index: number; name: string } | null
  readonly after: { index: number; name: string } | null
  /** Whether the files hold the same, texel for texel. */
  readonly same: boolean
}

/** What one map of two deliveries differs in, with pictures as data URLs. */
export interface ComparedPictures extends MapDifference {
  readonly pictures: { readonly difference: string; readonly before: string; readonly after: string }
}
