import { encodeSrgb } from '../../colour/srgb'
import type { Field } from '../../field/field'
import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'
import { channelsFor } from '../check'
import { texelsWhere } from '../texels-where'

const SHARE = 0.05
/** Brightest of the three, as files hold it: non-metals lie below, metals above. */
const BETWEEN = { from: 90 / 255, to: 150 / 255 }

/** A specular colour is that of a non-metal or of a metal; only thin borders lie between. */
const specularLevel: CheckRule = {
  name: 'specular-level',
  title: 'Specular is of metal or not',
  reference:
    'Common practice, from memory: non-metals reflect 2 to 8 % (sRGB 40–80), gems up to 17 % (sRGB 115), metals sRGB 155 and above.',
  run: (subject) =>
    channelsFor(subject, 'specular-level').flatMap(({ channel, field }): ReturnType<CheckRule['run']> => {
      const { ratio, marks } = between(field)
      if (ratio < SHARE) return []
      return [
        {
          severity: 'warning',
          channel: channel.id,
          message: `is too bright for a non-metal and too dark for a metal (sRGB 90 to 150) in ${(100 * ratio).toFixed(1)} % of the texels.`,
          value: ratio,
          fix: 'Give non-metals sRGB 56 (4 %), and how dull they are to gloss; keep metals at 155 and above.',
          marks,
        },
      ]
    }),
  measure: (subject) => {
    const field = channelsFor(subject, 'specular-level')[0]?.field
    return field ? `in ${(100 * (1 - between(field).ratio)).toFixed(1)} % of the texels` : null
  },
}

const between = (field: Field): ReturnType<typeof texelsWhere> =>
  texelsWhere(field, (x, y) => {
    const i = rowStart(field, y) + x
    const v = encodeSrgb(Math.max(field.planes[0]![i]!, field.planes[1]![i]!, field.planes[2]![i]!))
    return v > BETWEEN.from && v < BETWEEN.to
  })

export default specularLevel
