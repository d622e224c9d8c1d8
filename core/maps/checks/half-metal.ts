import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'
import { texelsWhere } from '../texels-where'

const LIMIT = 0.05

/** A surface is metal or is not; only thin borders lie between. */
const halfMetal: CheckRule = {
  name: 'half-metal',
  title: 'Half metal',
  source: 'Common practice, from memory: metallic between 0.2 and 0.8 in under 5 % of the texels.',
  run: ({ channels }) => {
    const field = channels.find(({ channel }) => channel.id === 'metallic')?.field
    if (!field) return []
    const { share, at } = texelsWhere(field, (x, y) => {
      const v = field.planes[0]![rowStart(field, y) + x]!
      return v > 0.2 && v < 0.8
    })
    if (share < LIMIT) return []
    return [
      {
        severity: 'warning',
        channel: 'metallic',
        message: `lies between 0.2 and 0.8 in ${(100 * share).toFixed(1)} % of the texels.`,
        figure: share,
        mend: 'Put a cutoff before it; rust and dirt on metal are no metal.',
        at,
      },
    ]
  },
}
export default halfMetal
