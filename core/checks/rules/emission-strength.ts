import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'
import { channelsFor } from '../check'
import { texelsWhere } from '../texels-where'

/** Emission that glows with no strength is a map for nothing. */
const emissionStrength: CheckRule = {
  name: 'emission-strength',
  title: 'Emission has a strength',
  reference: 'Khronos KHR_materials_emissive_strength: emission is the map times a strength; at 0 there is no light.',
  run: (subject) => {
    const { emissionStrength: strength } = subject
    const [one] = channelsFor(subject, 'emission-strength')
    if (!one || strength === undefined || strength > 0) return []
    const { channel, field } = one
    const { ratio, marks } = texelsWhere(field, (x, y) => {
      const i = rowStart(field, y) + x
      return field.planes.some((plane) => plane[i]! > 0.5 / 255)
    })
    if (ratio === 0) return []
    return [
      {
        severity: 'warning',
        channel: channel.id,
        message: `glows in ${(100 * ratio).toFixed(1)} % of the texels, but its strength is 0.`,
        value: ratio,
        fix: 'Give the material an emission strength, or take emission out of the packing.',
        marks,
      },
    ]
  },
}
export default emissionStrength
