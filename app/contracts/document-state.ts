/** A revision that can be looked at, compared with and returned to. */
export interface DocumentState {
  readonly revision: number
  /** What it is called; null where nobody named it. */
  readonly name: string | null
  /** What led to it: an edit, or one that was undone or done again. */
  readonly kind: 'start' | 'edit' | 'undo' | 'redo' | 'arrange'
  /** What that edit did. */
  readonly label: string
  readonly at: string
}
