import type { MadeImage } from './made-image'
import { FIGURES, strokeDistance } from './figures'

const [WIDTH, HEIGHT] = [384, 120]
const NUMBER = '264'
const [PLATE, BORDER, FIGURE] = [
  [36, 58, 92],
  [222, 216, 200],
  [238, 233, 220],
] as const

/** How far outside of a rounded box a place is, in texels, below 0 within. */
function boxDistance(x: number, y: number, inset: number, round: number): number {
  const [dx, dy] = [
    Math.abs(x - WIDTH / 2) - (WIDTH / 2 - inset - round),
    Math.abs(y - HEIGHT / 2) - (HEIGHT / 2 - inset - round),
  ]
  const [ox, oy] = [Math.max(dx, 0), Math.max(dy, 0)]
  return Math.sqrt(ox * ox + oy * oy) + Math.min(0, Math.max(dx, dy)) - round
}

const cover = (distance: number): number => Math.min(1, Math.max(0, 0.5 - distance))

/** An enamelled number plate: blue, with a border, three figures and two screws; clear around its rounded corners. */
export default {
  file: 'number-plate.png',
  width: WIDTH,
  height: HEIGHT,
  channels: 4,
  make: () => {
    const values = new Uint8Array(WIDTH * HEIGHT * 4)
    for (let y = 0; y < HEIGHT; y++)
      for (let x = 0; x < WIDTH; x++) {
        const [cx, cy] = [x + 0.5, y + 0.5]
        const scale = 46
        const figures = [...NUMBER].map(
          (one, i) => strokeDistance(FIGURES[one]!, (cx - 96 - i * 74) / scale, (cy - 23) / scale) * scale,
        )
        const screws = [26, WIDTH - 26].map((at) => Math.sqrt((cx - at) ** 2 + (cy - HEIGHT / 2) ** 2) - 8)
        const border = Math.max(boxDistance(cx, cy, 6, 12), -boxDistance(cx, cy, 10, 9))
        const [light, dull] = [cover(Math.min(...figures)), cover(Math.min(border, ...screws))]
        const rgb = PLATE.map((base, i) => {
          const framed = base + (BORDER[i]! - base) * dull
          return Math.round(framed + (FIGURE[i]! - framed) * light)
        })
        const alpha = cover(boxDistance(cx, cy, 1, 16))
        values.set([...(alpha > 0 ? rgb : [255, 255, 255]), Math.round(alpha * 255)], (y * WIDTH + x) * 4)
      }
    return values
  },
} satisfies MadeImage
