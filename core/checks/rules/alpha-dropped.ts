import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'
import { channelsFor } from '../check'
import { texelsWhere } from '../texels-where'

/** Texels are seen through, but no file says so. */
const alphaDropped: CheckRule = {
  name: 'alpha-dropped',
  title: 'Opacity arrives',
  reference: 'glTF 2.0, section 3.9.4: coverage comes from alpha alone; a file without it is opaque everywhere.',
  run: (subject) => {
    const { files } = subject
    const [one] = channelsFor(subject, 'alpha-dropped')
    if (!one || files.length === 0) return []
    const { channel, field } = one
    if (files.some(({ record }) => record.slots.some((slot) => slot.channel === channel.id))) return []
    const { ratio, marks } = texelsWhere(field, (x, y) => field.planes[0]![rowStart(field, y) + x]! < 1 - 0.5 / 255)
    if (ratio === 0) return []
    return [
      {
        severity: 'warning',
        channel: channel.id,
        message: `is below 1 in ${(100 * ratio).toFixed(1)} % of the texels, but no file holds it.`,
        value: ratio,
        fix: 'Put opacity into the A of the colour file, in a format that has one.',
        marks,
      },
    ]
  },
}
export default alphaDropped
