/** What a number field may hold. */
export interface NumberRange {
  readonly whole?: boolean
  readonly min: number
  readonly max: number
  /** The part of the range that dragging covers comfortably. */
  readonly softRange?: readonly [number, number]
}

/** One step: whole ones, or a hundredth of the usual range, as a power of ten. */
export function stepOf({ whole, min, max, softRange }: NumberRange): number {
  if (whole) return 1
  const [from, to] = softRange ?? [min, max]
  return 10 ** Math.round(Math.log10((to - from) / 100))
}

/** The factor that held keys ask for: Shift coarse, Alt fine. */
export const factorOf = ({ shiftKey, altKey }: { shiftKey: boolean; altKey: boolean }): number =>
  shiftKey ? 10 : altKey ? 0.1 : 1

/** A value within the range, without the dust of binary fractions. */
export function fitted(value: number, { whole, min, max }: Omit<NumberRange, 'softRange'>): number {
  const clean = whole ? Math.round(value) : Number(value.toPrecision(10))
  return Math.min(max, Math.max(min, clean))
}

export const shownNumber = (value: number): string => String(Number(value.toFixed(Math.abs(value) >= 100 ? 2 : 4)))
