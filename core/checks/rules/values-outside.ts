import { holdsFloats } from '../../texture/format-registry'
import { rowStart } from '../../field/field'
import type { CheckRule, Finding } from '../check'
import { texelsWhere } from '../texels-where'

const SLACK = 1e-5

/** Values that an integer file would hold at its ends. */
const valuesOutside: CheckRule = {
  name: 'values-outside',
  title: 'Values outside the range',
  reference: 'MAPS: nothing is clipped silently; integer files hold 0–1 (normals −1…1).',
  run: ({ channels, files, before }) =>
    channels.flatMap(({ channel, field: decoded }): Omit<Finding, 'rule'>[] => {
      const slots = files.flatMap(({ record }) =>
        record.slots.filter((slot) => slot.channel === channel.id).map((slot) => ({ ...slot, record })),
      )
      if (slots.length > 0 && slots.every(({ record }) => holdsFloats(record))) return []
      const field = before?.get(channel.id) ?? decoded
      const clipping = slots.find(({ record, min, max }) => !holdsFloats(record) && (min < -SLACK || max > 1 + SLACK))
      const [low, high] = channel.range
      let min = Infinity
      let max = -Infinity
      const { ratio, marks } = texelsWhere(field, (x, y) => {
        const i = rowStart(field, y) + x
        let out = false
        for (const plane of field.planes) {
          const v = plane[i]!
          if (v < min) min = v
          if (v > max) max = v
          out ||= v < low - SLACK || v > high + SLACK
        }
        return out
      })
      if (ratio === 0 && !clipping) return []
      const fix = 'Put levels or compress-range before it, or deliver the channel as a float file.'
      // Of a file that is all there is, the record alone knows what it was before it was held.
      if (ratio === 0)
        return [
          {
            severity: 'warning',
            channel: channel.id,
            file: clipping!.record.name,
            message: `went from ${clipping!.min.toFixed(3)} to ${clipping!.max.toFixed(3)} and was held at 0 and 1.`,
            value: Math.max(-clipping!.min, clipping!.max - 1),
            fix,
          },
        ]
      return [
        {
          severity: 'warning',
          channel: channel.id,
          message: `${(100 * ratio).toFixed(2)} % lie outside ${low}…${high} (from ${min.toFixed(3)} to ${max.toFixed(3)}).`,
          value: ratio,
          fix,
          marks,
        },
      ]
    }),
}
export default valuesOutside
