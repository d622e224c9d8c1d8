import { polygonDistance } from '#core/kernels/polygon'

/** Strokes of each figure in a box 1 wide and 1.6 high. */
export const FIGURES: Record<string, readonly (readonly [number, number])[]> = {
  2: [
    [0.02, 0.36],
    [0.12, 0.12],
    [0.36, 0],
    [0.64, 0],
    [0.9, 0.14],
    [0.98, 0.4],
    [0.86, 0.7],
    [0, 1.6],
    [1, 1.6],
  ],
  4: [
    [0.74, 1.6],
    [0.74, 0],
    [0, 1.08],
    [1, 1.08],
  ],
  6: [
    [0.86, 0.04],
    [0.42, 0.3],
    [0.1, 0.82],
    [0, 1.14],
    [0.13, 1.44],
    [0.5, 1.6],
    [0.87, 1.44],
    [1, 1.14],
    [0.86, 0.84],
    [0.5, 0.7],
    [0.16, 0.84],
  ],
  8: [
    [0.5, 0],
    [0.84, 0.1],
    [0.94, 0.38],
    [0.8, 0.64],
    [0.5, 0.75],
    [0.14, 0.92],
    [0, 1.2],
    [0.13, 1.48],
    [0.5, 1.6],
    [0.87, 1.48],
    [1, 1.2],
    [0.86, 0.92],
    [0.5, 0.75],
    [0.2, 0.64],
    [0.06, 0.38],
    [0.16, 0.1],
    [0.5, 0],
  ],
}
const THICK = 0.13

/** Distance to a stroke through points, below 0 within it. */
export function strokeDistance(points: readonly (readonly [number, number])[], x: number, y: number): number {
  let min = Infinity
  for (let i = 0; i + 1 < points.length; i++) {
    const [[ax, ay], [bx, by]] = [points[i]!, points[i + 1]!]
    const d = Math.abs(polygonDistance([ax, ay, bx, by], x, y))
    if (d < min) min = d
  }
  return min - THICK
}
