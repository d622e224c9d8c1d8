/** Brings a direction to length 1; one without length stays. */
export function normaliseAt(planes: readonly Float32Array[], at: number): void {
  const x = planes[0]![at]!
  const y = planes[1]![at]!
  const z = planes[2]![at]!
  const length = Math.sqrt(x * x + y * y + z * z)
  if (length === 0) return
  planes[0]![at] = x / length
  planes[1]![at] = y / length
  planes[2]![at] = z / length
}
