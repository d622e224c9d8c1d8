import { fieldStatistics } from '../../field/statistics'
import type { CheckRule } from '../check'

/** A map with one value everywhere takes memory for nothing. */
const constantChannels: CheckRule = {
  name: 'constant-channels',
  title: 'Constant channels',
  source: 'Common practice: a constant is cheaper as a number in the engine.',
  run: ({ channels, files }) =>
    channels.flatMap(({ channel, field }) => {
      const statistics = fieldStatistics(field)
      if (statistics.some(({ min, max }) => max - min > 1e-6)) return []
      const inFiles = files.filter(({ record }) => record.slots.some((slot) => slot.channel === channel.id))
      if (files.length > 0 && inFiles.length === 0) return []
      return [
        {
          severity: 'warning' as const,
          channel: channel.id,
          file: inFiles[0]?.record.name,
          message: `is ${statistics.map(({ mean }) => mean.toFixed(3)).join(', ')} everywhere.`,
          figure: statistics[0]!.mean,
          mend: 'Leave it out of the packing and set the number in the engine.',
        },
      ]
    }),
}
export default constantChannels
