import { holdsFloats } from '../../texture/format-registry'
import type { CheckRule } from '../check'

/** Colour is sRGB-encoded, data is not, and files say so. */
const transfer: CheckRule = {
  name: 'transfer',
  title: 'Colour space',
  reference: 'MAPS table of encodings; glTF 2.0, section 3.9.2 (base colour and emission sRGB, the rest linear).',
  run: ({ files, channels }) =>
    files.flatMap(({ record, marked }) => {
      const colours = record.slots
        .slice(0, 3)
        .map((slot) => channels.find(({ channel }) => channel.id === slot.channel))
      const colour = colours.some((one) => one?.channel.transfer === 'srgb')
      const data = colours.some((one) => one !== undefined && one.channel.transfer === 'raw')
      if (holdsFloats(record)) return []
      const wrong = colour
        ? record.transfer !== 'srgb' || marked === false
        : record.transfer !== 'raw' || marked === true
      if (!wrong && !(colour && data)) return []
      return [
        {
          severity: 'error' as const,
          file: record.name,
          message:
            colour && data
              ? 'holds colour and data under one encoding.'
              : colour
                ? 'holds colour but is marked raw.'
                : 'holds data but is marked sRGB.',
          value: 1,
          fix:
            colour && data
              ? 'Put them into files of their own.'
              : `Set its transfer to ${colour ? 'srgb' : 'raw'} in the packing.`,
        },
      ]
    }),
}
export default transfer
