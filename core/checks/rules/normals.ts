import { isTangentNormal } from '../../document/channels'
import type { Field } from '../../field/field'
import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'
import { texelsWhere } from '../texels-where'

const OFF = 0.02

/** Unit length and facing outward. */
const normals: CheckRule = {
  name: 'normals',
  title: 'Normals of length 1, facing out',
  reference:
    'glTF 2.0, section 3.9.3 (unit vectors, z > 0); the tolerance 0.02 covers 8-bit rounding (own derivation).',
  run: ({ channels }) =>
    channels
      .filter(({ channel }) => channel.type === 'normal')
      .flatMap(({ channel, field }) => {
        const facesOut = isTangentNormal(channel.id)
        const { ratio, marks } = texelsWhere(field, (x, y) => {
          const i = rowStart(field, y) + x
          return Math.abs(lengthAt(field, i) - 1) > OFF || (facesOut && !(field.planes[2]![i]! > 0))
        })
        if (ratio === 0) return []
        return [
          {
            severity: 'error' as const,
            channel: channel.id,
            message: `${(100 * ratio).toFixed(2)} % of the normals are not of length 1${facesOut ? ' or face inward' : ''}.`,
            value: ratio,
            fix: 'Bring the layers’ normals to unit length, or make them from height.',
            marks,
          },
        ]
      }),
  measure: ({ channels }) => {
    const field = channels.find(({ channel }) => isTangentNormal(channel.id))?.field
    if (!field) return null
    let worst = 0
    let steepest = 1
    for (let y = 0; y < field.rows; y++)
      for (let x = 0; x < field.width; x++) {
        const i = rowStart(field, y) + x
        worst = Math.max(worst, Math.abs(lengthAt(field, i) - 1))
        steepest = Math.min(steepest, field.planes[2]![i]!)
      }
    return `length at most ${worst.toFixed(3)} off, least z ${steepest.toFixed(3)}`
  },
}

function lengthAt({ planes: [x, y, z] }: Field, i: number): number {
  return Math.sqrt(x![i]! * x![i]! + y![i]! * y![i]! + z![i]! * z![i]!)
}

export default normals
