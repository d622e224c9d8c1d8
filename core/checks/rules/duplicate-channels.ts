import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'

/** Half a step of 8 bits. */
const ALIKE = 0.5 / 255

/** Two maps that say the same take memory twice. */
const duplicateChannels: CheckRule = {
  name: 'duplicate-channels',
  title: 'Duplicate channels',
  reference: 'Common practice; alike is within half a step of 8 bits.',
  run: ({ channels }) => {
    const greys = channels.filter(({ channel, field }) => channel.type === 'grey' && field.stride !== 0)
    return greys.flatMap((one, i) =>
      greys.slice(i + 1).flatMap((other) => {
        const constant = (plane: Float32Array): boolean => plane.every((v) => Math.abs(v - plane[0]!) <= ALIKE)
        if (one.field.width !== other.field.width || one.field.rows !== other.field.rows) return []
        for (let y = 0; y < one.field.rows; y++) {
          const [a, b] = [rowStart(one.field, y), rowStart(other.field, y)]
          for (let x = 0; x < one.field.width; x++)
            if (Math.abs(one.field.planes[0]![a + x]! - other.field.planes[0]![b + x]!) > ALIKE) return []
        }
        // What is one value everywhere is told by the rule for that.
        if (constant(one.field.planes[0]!)) return []
        return [
          {
            severity: 'warning' as const,
            channel: other.channel.id,
            message: `is the same as ${one.channel.id}.`,
            value: 0,
            fix: 'Pack one of them and read it twice in the engine.',
          },
        ]
      }),
    )
  },
}
export default duplicateChannels
