import type { Field } from '../../field/field'
import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'

/** By how much the flipped reading must be nearer to a real surface. */
const FACTOR = 2

/** Whether green points up, as inside, or was flipped on the way. */
const normalDirection: CheckRule = {
  name: 'normal-direction',
  title: 'Direction of green',
  reference:
    'A surface’s slopes have no curl: ∂²h/∂u∂v = ∂²h/∂v∂u (Schwarz). R. Frankot, R. Chellappa 1988 call such a field ' +
    'integrable; the sign under which it is nearer to that is the right one. Factor 2: own choice.',
  run: ({ channels }) =>
    channels
      .filter(({ channel }) => channel.type === 'normal')
      .flatMap(({ channel, field }) => {
        const [up, down] = curls(field)
        if (!(up > FACTOR * down) || up < 1e-9) return []
        return [
          {
            severity: 'error' as const,
            channel: channel.id,
            message: 'bends like a surface only with green flipped: it is Y down where Y up was expected.',
            value: up / Math.max(down, 1e-12),
            fix: 'Flip green: adjust-normal in the material, or a packing with the other direction.',
          },
        ]
      }),
}

/** Mean square of the curl of the slopes, with green read up and read down. */
function curls(field: Field): [number, number] {
  const { width, rows } = field
  const [nx, ny, nz] = field.planes as [Float32Array, Float32Array, Float32Array]
  const slope = (plane: Float32Array, sign: number, x: number, y: number): number => {
    const i = rowStart(field, (y + rows) % rows) + ((x + width) % width)
    return (sign * plane[i]!) / Math.max(0.05, nz[i]!)
  }
  let up = 0
  let down = 0
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < width; x++) {
      // ∂h/∂u = −nx/nz; ∂h/∂v = ny/nz with v down and +Y up.
      const across = slope(nx, -1, x, y + 1) - slope(nx, -1, x, y - 1)
      const along = slope(ny, 1, x + 1, y) - slope(ny, 1, x - 1, y)
      up += (across - along) * (across - along)
      down += (across + along) * (across + along)
    }
  return [up / (width * rows), down / (width * rows)]
}
export default normalDirection
