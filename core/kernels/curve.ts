/** Where a piece begins, its value and slope there, and how far the next one is (0 at the end). */
export interface HermitePoint {
  readonly x: number
  readonly y: number
  readonly slope: number
  readonly width: number
}

/**
 * A curve through points that never overshoots them: cubic Hermite pieces whose slopes are weighted harmonic means.
 * Shape: `at` strictly rising, `to` alike in length, two points at least. Before the first point its value holds,
 * after the last likewise.
 * Source: F. N. Fritsch, J. Butland, "A Method for Constructing Local Monotone Piecewise Cubic Interpolants", SIAM
 * J. Sci. Stat. Comput. 5 (1984); ends by the three-point rule of the same paper's PCHIM.
 */
export function monotoneCurve(points: readonly { at: number; to: number }[]): (v: number) => number {
  const pieces = hermitePieces(points)
  const last = pieces.length - 1
  return (v) => {
    if (v <= pieces[0]!.x) return pieces[0]!.y
    if (v >= pieces[last]!.x) return pieces[last]!.y
    let i = 0
    while (v >= pieces[i + 1]!.x) i++
    const { x, y, slope, width: h } = pieces[i]!
    const next = pieces[i + 1]!
    const t = (v - x) / h
    const s = 1 - t
    return y * (1 + 2 * t) * s * s + next.y * t * t * (3 - 2 * t) + h * (slope * t * s * s - next.slope * t * t * s)
  }
}

/** The points of monotoneCurve with their slopes. */
export function hermitePieces(points: readonly { at: number; to: number }[]): HermitePoint[] {
  const n = points.length
  const x = points.map(({ at }) => at)
  const y = points.map(({ to }) => to)
  const h = x.slice(1).map((next, i) => next - x[i]!)
  const d = h.map((step, i) => (y[i + 1]! - y[i]!) / step)
  const m = x.map((_, i) => {
    if (n === 2) return d[0]!
    if (i === 0) return endSlope(h[0]!, h[1]!, d[0]!, d[1]!)
    if (i === n - 1) return endSlope(h[n - 2]!, h[n - 3]!, d[n - 2]!, d[n - 3]!)
    const [before, after] = [d[i - 1]!, d[i]!]
    if (before * after <= 0) return 0
    const w1 = 2 * h[i]! + h[i - 1]!
    const w2 = h[i]! + 2 * h[i - 1]!
    return (w1 + w2) / (w1 / before + w2 / after)
  })
  return x.map((at, i) => ({ x: at, y: y[i]!, slope: m[i]!, width: h[i] ?? 0 }))
}

function endSlope(h0: number, h1: number, d0: number, d1: number): number {
  const slope = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1)
  if (slope * d0 <= 0) return 0
  if (d0 * d1 <= 0 && Math.abs(slope) > Math.abs(3 * d0)) return 3 * d0
  return slope
}
