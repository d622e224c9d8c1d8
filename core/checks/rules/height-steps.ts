import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'
import { channelsFor } from '../check'
import { texelsWhere } from '../texels-where'

const LIMIT = 0.25

/** A height in 8 bits that shows terraces. */
const heightSteps: CheckRule = {
  name: 'height-steps',
  title: 'Steps in the height',
  reference:
    'Own derivation: with 255 steps a slope of less than one step a texel leaves level runs; a quarter of all texels ' +
    'inside such runs are seen as terraces when displaced.',
  run: (subject) =>
    channelsFor(subject, 'height-steps')
      .filter(({ steps }) => steps === 255)
      .flatMap(({ channel, field }) => {
        const plane = field.planes[0]!
        const { width } = field
        const { ratio, marks } = texelsWhere(field, (x, y) => {
          const row = rowStart(field, y)
          const v = plane[row + x]!
          return v === plane[row + ((x + 1) % width)] && v === plane[row + ((x + width - 1) % width)]
        })
        if (ratio < LIMIT) return []
        return [
          {
            severity: 'warning' as const,
            channel: channel.id,
            message: `is level from texel to texel in ${(100 * ratio).toFixed(0)} % of the map: 8 bits are too few.`,
            value: ratio,
            fix: 'Deliver the height in 16 bits or as a float file.',
            marks,
          },
        ]
      }),
}
export default heightSteps
