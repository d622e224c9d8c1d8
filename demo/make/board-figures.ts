import { figureAt } from './meshes/depth-board'
import type { MadeImage } from './made-image'

const [WIDTH, HEIGHT] = [246, 1024]

/** The figures and marks of the depth board as paint: cream, clear around them, laid out as they are raised on its mesh. */
export default {
  file: 'board-figures.png',
  width: WIDTH,
  height: HEIGHT,
  channels: 4,
  make: () => {
    const values = new Uint8Array(WIDTH * HEIGHT * 4)
    for (let y = 0; y < HEIGHT; y++)
      for (let x = 0; x < WIDTH; x++) {
        const at = figureAt(((x + 0.5) / WIDTH - 0.5) * 0.24, 1 - (y + 0.5) / HEIGHT)
        const alpha = Math.round(255 * at)
        values.set(alpha > 0 ? [240, 233, 212, alpha] : [255, 255, 255, 0], (y * WIDTH + x) * 4)
      }
    return values
  },
} satisfies MadeImage
