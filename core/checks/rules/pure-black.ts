import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'
import { channelsFor } from '../check'
import { texelsWhere } from '../texels-where'

/** Linear light of sRGB 2 of 255. */
const BLACK = 0.000607054
const LIMIT = 0.01

/** No surface gives back no light at all. */
const pureBlack: CheckRule = {
  name: 'pure-black',
  title: 'Pure black',
  reference: 'Common practice: black colour takes no light, whatever the lamp; IEC 61966-2-1 for the value of sRGB 2.',
  run: (subject) =>
    channelsFor(subject, 'pure-black').flatMap(({ channel, field }): ReturnType<CheckRule['run']> => {
      const { ratio, marks } = texelsWhere(field, (x, y) => {
        const i = rowStart(field, y) + x
        return field.planes.every((plane) => plane[i]! <= BLACK)
      })
      if (ratio < LIMIT) return []
      return [
        {
          severity: 'warning',
          channel: channel.id,
          message: `is black in ${(100 * ratio).toFixed(1)} % of the texels.`,
          value: ratio,
          fix: 'Raise the darkest stop of its ramp, or look for an input that is not connected.',
          marks,
        },
      ]
    }),
}
export default pureBlack
