import type { Field } from '../../field/field'
import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'
import { channelsFor } from '../check'
import { texelsWhere } from '../texels-where'

const LIMIT = 0.05
/** As the channel's plausible values leave it. */
const BETWEEN = { from: 0.2, to: 0.8 }

/** A surface is metal or is not; only thin borders lie between. */
const halfMetal: CheckRule = {
  name: 'half-metal',
  title: 'Metal is 0 or 1',
  reference: 'Common practice, from memory: metallic between 0.2 and 0.8 in under 5 % of the texels.',
  run: (subject) =>
    channelsFor(subject, 'half-metal').flatMap(({ channel, field }): ReturnType<CheckRule['run']> => {
      const { ratio, marks } = between(field)
      if (ratio < LIMIT) return []
      return [
        {
          severity: 'warning',
          channel: channel.id,
          message: `lies between 0.2 and 0.8 in ${(100 * ratio).toFixed(1)} % of the texels.`,
          value: ratio,
          fix: 'Put a threshold before it; rust and dirt on metal are no metal.',
          marks,
        },
      ]
    }),
  measure: (subject) => {
    const field = channelsFor(subject, 'half-metal')[0]?.field
    return field ? `in ${(100 * (1 - between(field).ratio)).toFixed(1)} % of the texels` : null
  },
}

const between = (field: Field): ReturnType<typeof texelsWhere> =>
  texelsWhere(field, (x, y) => {
    const v = field.planes[0]![rowStart(field, y) + x]!
    return v > BETWEEN.from && v < BETWEEN.to
  })

export default halfMetal
