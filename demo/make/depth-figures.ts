import { polygonDistance } from '#core/kernels/polygon'
import type { MadeImage } from './made-image'

/** Strokes of each figure in a box 1 wide and 1.6 high. */
const FIGURES: Record<string, readonly (readonly [number, number])[]> = {
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
function strokeDistance(points: readonly (readonly [number, number])[], x: number, y: number): number {
  let min = Infinity
  for (let i = 0; i + 1 < points.length; i++) {
    const [[ax, ay], [bx, by]] = [points[i]!, points[i + 1]!]
    const d = Math.abs(polygonDistance([ax, ay, bx, by], x, y))
    if (d < min) min = d
  }
  return min - THICK
}

/**
 * The figures of a depth board with its marks, dark on nothing: 2, 4, 6, 8 from the foot up, a bar every twentieth. Where
 * it is transparent its colour is white, so that careless filtering would show.
 */
export default {
  file: 'depth-figures.png',
  width: 512,
  height: 1024,
  channels: 4,
  make: () => {
    const [width, height] = [512, 1024]
    const values = new Uint8Array(width * height * 4)
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        // One unit is a quarter of the height; figures stand in four rows.
        const row = Math.floor(y / 256)
        const [u, v] = [x / 256, (y - row * 256) / 256]
        const figure = FIGURES[String(8 - 2 * row)]!
        const scale = 0.34
        const away = strokeDistance(figure, (u - 1.3) / scale, (v - 0.24) / scale) * scale
        const bar = (n: number, long: number): number =>
          Math.max(Math.abs(v - (2 * n + 1) / 6) - 0.05, Math.abs(u - 0.3 - long / 2) - long / 2)
        const bars = Math.min(bar(0, 0.44), bar(1, 0.62), bar(2, 0.44))
        const post = Math.abs(u - 0.24) - 0.06
        const alpha = Math.min(1, Math.max(0, 0.5 - Math.min(away, bars, post) * 256))
        values.set(alpha > 0 ? [27, 31, 38, Math.round(alpha * 255)] : [255, 255, 255, 0], (y * width + x) * 4)
      }
    return values
  },
} satisfies MadeImage
