/** A run of output rows, `from` ≤ y < `to`, and a check that throws `cancelled` when the work is no longer wanted. */
export interface Rows {
  readonly from: number
  readonly to: number
  check(): void
}

/** Rows that nobody cancels; for tests and small work. */
export const allRows = (height: number, from = 0): Rows => ({ from, to: height, check: () => {} })
