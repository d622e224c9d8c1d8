import { isTangentNormal } from '../../document/channels'
import type { Field } from '../../field/field'
import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'
import { texelsWhere } from '../texels-where'

const OFF = 0.02

const OFF_LENGTH = {
  severity: 'error',
  fault: 'are not of length 1',
  fix: 'Bring the layers’ normals to unit length, or make them from height.',
} as const
const INWARD = { ...OFF_LENGTH, fault: 'face inward' } as const
const TURNED_AWAY = {
  severity: 'warning',
  fault: 'face inward: files of two channels turn them outward',
  fix: 'Give the low mesh more triangles where the high one is much steeper, or deliver normals in three channels.',
} as const

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
        const where = (wrong: (i: number) => boolean) => texelsWhere(field, (x, y) => wrong(rowStart(field, y) + x))
        const isOff = (i: number): boolean => Math.abs(lengthAt(field, i) - 1) > OFF
        const isInward = (i: number): boolean => isTangentNormal(channel.id) && !(field.planes[2]![i]! > 0)
        const off = { ...where(isOff), ...OFF_LENGTH }
        // A high mesh may turn away by more than a right angle, where it is much steeper than the low one.
        const inward = { ...where((i) => !isOff(i) && isInward(i)), ...(over === 'part' ? TURNED_AWAY : INWARD) }
        return [off, inward]
          .filter(({ ratio }) => ratio > 0)
          .map(({ ratio, marks, severity, fault, fix }) => ({
            ...{ severity, channel: channel.id, value: ratio, fix, marks },
            message: `${(100 * ratio).toFixed(2)} % of the normals ${fault}.`,
          }))
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
