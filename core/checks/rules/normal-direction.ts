import { isTangentNormal } from '../../document/channels'
import { rowStart } from '../../field/field'
import { curls, greenOf } from '../../texture/normal-curl'
import type { CheckRule } from '../check'

/** Whether green points up, as inside, or was flipped on the way. */
const normalDirection: CheckRule = {
  name: 'normal-direction',
  title: 'Direction of green',
  reference:
    'A surface’s slopes have no curl: ∂²h/∂u∂v = ∂²h/∂v∂u (Schwarz). R. Frankot, R. Chellappa 1988 call such a field ' +
    'integrable; the sign under which it is nearer to that is the right one. Factor 2: own choice.',
  run: ({ channels }) =>
    channels
      .filter(({ channel }) => isTangentNormal(channel.id))
      .flatMap(({ channel, field }) => {
        const { width, rows } = field
        const planes = field.planes as [Float32Array, Float32Array, Float32Array]
        const found = curls({ width, rows, planes, rowStart: (row) => rowStart(field, row) }, true)
        if (greenOf(found) !== 'down') return []
        return [
          {
            severity: 'error' as const,
            channel: channel.id,
            message: 'bends like a surface only with green flipped: it is Y down where Y up was expected.',
            value: found.up / Math.max(found.down, 1e-12),
            fix: 'Flip green: adjust-normal in the material, or a packing with the other direction.',
          },
        ]
      }),
}
export default normalDirection
