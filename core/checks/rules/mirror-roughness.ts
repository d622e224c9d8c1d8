import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'
import { channelsFor } from '../check'
import { texelsWhere } from '../texels-where'

const LIMIT = 0.5
const MIRROR = 0.02

/** A roughness of 0 is a perfect mirror, which sparkles and aliases. */
const mirrorRoughness: CheckRule = {
  name: 'mirror-roughness',
  title: 'Roughness of 0',
  reference:
    'glTF 2.0, appendix B.3.1: alpha = roughness²; at 0 the highlight is a point. Half the texels: own choice.',
  run: (subject) =>
    channelsFor(subject, 'mirror-roughness').flatMap(({ channel, field }): ReturnType<CheckRule['run']> => {
      const { ratio, marks } = texelsWhere(field, (x, y) => field.planes[0]![rowStart(field, y) + x]! < MIRROR)
      if (ratio < LIMIT) return []
      return [
        {
          severity: 'warning',
          channel: channel.id,
          message: `is below 0.02 in ${(100 * ratio).toFixed(0)} % of the texels, a perfect mirror.`,
          value: ratio,
          fix: 'Raise it; still water is about 0.05.',
          marks,
        },
      ]
    }),
}
export default mirrorRoughness
