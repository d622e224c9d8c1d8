import type { Field } from '../../field/field'
import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'

/** Values that an integer file would hold at its ends. */
const valuesOutside: CheckRule = {
  name: 'values-outside',
  title: 'Values outside the range',
  source: 'MAPS: nothing is clipped silently; integer files hold 0–1 (normals −1…1).',
  run: ({ channels }) =>
    channels.flatMap(({ channel, field }) => {
      const [low, high] = channel.range
      const { count, min, max, at } = outside(field, low - 1e-5, high + 1e-5)
      if (count === 0) return []
      const share = count / (field.width * field.rows * field.planes.length)
      return [
        {
          severity: 'warning' as const,
          channel: channel.id,
          message: `${(100 * share).toFixed(2)} % lie outside ${low}…${high} (from ${min.toFixed(3)} to ${max.toFixed(3)}).`,
          figure: share,
          mend: 'Put levels or span before it, or deliver the channel as a float file.',
          at,
        },
      ]
    }),
}

function outside(
  field: Field,
  low: number,
  high: number,
): { count: number; min: number; max: number; at?: [number, number] } {
  let count = 0
  let min = Infinity
  let max = -Infinity
  let at: [number, number] | undefined
  for (const plane of field.planes)
    for (let y = 0; y < field.rows; y++) {
      const start = rowStart(field, y)
      for (let x = 0; x < field.width; x++) {
        const v = plane[start + x]!
        if (v < min) min = v
        if (v > max) max = v
        if (v >= low && v <= high) continue
        count++
        at ??= [(x + 0.5) / field.width, (y + 0.5) / field.height]
      }
    }
  return { count, min, max, at }
}
export default valuesOutside
