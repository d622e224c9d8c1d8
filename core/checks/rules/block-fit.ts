import { isTangentNormal } from '../../document/channels'
import type { CheckRule } from '../check'

/** Channels that blocks of few tones cannot hold well, and blocks that suit them. */
const blockFit: CheckRule = {
  name: 'block-fit',
  title: 'Blocks suit what they hold',
  reference:
    'Khronos Data Format Specification 1.3, chapter 18: BC1 and the colour of BC3 have 5, 6 and 5 bits and one line of four tones a block; common practice: normals in BC5 or BC7.',
  run: ({ files }) =>
    files
      .filter(({ record: { block, slots } }) => {
        const normal = slots.filter(
          ({ channel, component }) => channel !== null && isTangentNormal(channel) && component < 2,
        )
        // X in alpha and Y in green, with nothing else beside them, is what BC3 holds well.
        const apart = [1, 3].every((at) => isTangentNormal(slots[at]?.channel ?? '')) && slots[0]?.channel === null
        return normal.length === 2 && (block === 'bc1' || (block === 'bc3' && !apart))
      })
      .map(({ record }) => ({
        severity: 'warning',
        file: record.name,
        message: `holds normals as ${record.block!.toUpperCase()}, in which they become blocky.`,
        value: 1,
        fix: 'Take BC5, BC7, or X in alpha and Y in green of BC3.',
      })),
}
export default blockFit
