import type { Field } from '../../field/field'
import { fieldStatistics } from '../../field/statistics'
import type { CheckSubject } from '../subject'
import type { CheckRule } from '../check'

/** A file with one value everywhere takes memory for nothing; a material's constant is told where somebody set it. */
const constantChannels: CheckRule = {
  name: 'constant-channels',
  title: 'Constant channels',
  reference: 'Common practice: a constant is cheaper as a number in the engine.',
  run: (subject) => (subject.files.length > 0 ? inFiles(subject) : inMaterial(subject)),
}
export default constantChannels

/** A slot that is constant beside others that are not costs nothing: only files that hold nothing else are told. */
const inFiles = ({ channels, files }: CheckSubject): ReturnType<CheckRule['run']> =>
  files.flatMap(({ record }) => {
    const delivered = channels.filter(({ channel }) => record.slots.some((slot) => slot.channel === channel.id))
    if (delivered.length === 0 || delivered.some(({ field }) => !isConstant(field))) return []
    return [
      {
        severity: 'warning' as const,
        channel: delivered[0]!.channel.id,
        file: record.name,
        message: `is ${delivered.map(({ field }) => valueInWords(field)).join('; ')} everywhere.`,
        value: meansOf(delivered[0]!.field)[0]!,
        fix: 'Leave the file out of the packing and set the number in the engine.',
      },
    ]
  })

/** What nobody touched is what every material has, and no finding. */
const inMaterial = ({ channels }: CheckSubject): ReturnType<CheckRule['run']> =>
  channels.flatMap(({ channel, field }) => {
    const untouched = meansOf(field).every((mean, i) => Math.abs(mean - channel.backdrop[i]!) < 1e-4)
    if (!isConstant(field) || untouched) return []
    return [
      {
        severity: 'warning' as const,
        channel: channel.id,
        message: `is ${valueInWords(field)} everywhere.`,
        value: meansOf(field)[0]!,
        fix: 'Leave it out of the packing and set the number in the engine.',
      },
    ]
  })

const isConstant = (field: Field): boolean => fieldStatistics(field).every(({ min, max }) => max - min <= 1e-6)
const meansOf = (field: Field): number[] => fieldStatistics(field).map(({ mean }) => mean)
const valueInWords = (field: Field): string =>
  meansOf(field)
    .map((mean) => mean.toFixed(3))
    .join(', ')
