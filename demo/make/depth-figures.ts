import { FIGURES, strokeDistance } from './figures'
import type { MadeImage } from './made-image'

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
