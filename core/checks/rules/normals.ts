import { isTangentNormal } from '../../document/channels'
import type { Field } from '../../field/field'
import { rowStart } from '../../field/field'
import type { CheckRule, Finding } from '../check'
import { texelsWhere } from '../texels-where'

const OFF = 0.02

/** Unit length and facing outward. */
const normals: CheckRule = {
  name: 'normals',
  title: 'Normals of length 1, facing out',
  reference:
    'glTF 2.0, section 3.9.3 (unit vectors, z > 0); the tolerance 0.02 covers 8-bit rounding (own derivation).',
  run: ({ channels, over }) =>
    channels
      .filter(({ channel }) => channel.type === 'normal')
      .flatMap(({ channel, field }) => {
        const facesOut = isTangentNormal(channel.id)
        const find = (wrong: (i: number) => boolean) => texelsWhere(field, (x, y) => wrong(rowStart(field, y) + x))
        const isOff = (i: number): boolean => Math.abs(lengthAt(field, i) - 1) > OFF
        const isInward = (i: number): boolean => facesOut && !(field.planes[2]![i]! > 0)
        // A high mesh may turn away by more than a right angle, where it is much steeper than the low one.
        const isPart = over === 'part'
        const found: Omit<Finding, 'rule'>[] = []
        const wrong = find((i) => isOff(i) || (!isPart && isInward(i)))
        if (wrong.ratio > 0)
          found.push({
            severity: 'error',
            channel: channel.id,
            message: `${(100 * wrong.ratio).toFixed(2)} % of the normals are not of length 1${facesOut && !isPart ? ' or face inward' : ''}.`,
            value: wrong.ratio,
            fix: 'Bring the layers’ normals to unit length, or make them from height.',
            marks: wrong.marks,
          })
        const inward = isPart ? find((i) => !isOff(i) && isInward(i)) : wrong
        if (isPart && inward.ratio > 0)
          found.push({
            severity: 'warning',
            channel: channel.id,
            message: `${(100 * inward.ratio).toFixed(2)} % of the normals face inward: files of two channels turn them outward.`,
            value: inward.ratio,
            fix: 'Give the low mesh more triangles where the high one is much steeper, or deliver normals in three channels.',
            marks: inward.marks,
          })
        return found
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
