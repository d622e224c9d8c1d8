/** One map of two deliveries: what became of it. */
export interface ComparedMap {
  readonly map: string
  readonly before: { index: number; name: string } | null
  readonly after: { index: number; name: string } | null
  /** Whether the files hold the same, texel for texel. */
  readonly same: boolean
}
