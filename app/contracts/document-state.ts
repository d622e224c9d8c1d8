/** A revision that can be looked at, compared with and returned to. */
export interface DocumentState {
  readonly revision: number
  /** What it is called; null where nobody named it. */
  readonly name: string | null
  /** What the edit that led to it did. */
  readonly label: string
  readonly at: string
}
