import { definePacking } from '../packing'
import { colourWithOpacity, fromChannel, ownOr } from '../common-files'

const dds = { format: 'dds', bits: 8, mips: true } as const

/** X in alpha and Y in green, where BC3 has most bits; R 1 and B 0. Common practice of older engines. */
export default definePacking({
  name: 'blocks-older',
  title: 'Blocks for older engines',
  summary:
    'DDS with mips: diffuse with opacity in BC3; specular with strength in BC3; normal with X in alpha and Y in green of BC3, Y up.',
  files: [
    {
      ...colourWithOpacity,
      ...dds,
      map: 'diffuse',
      block: 'bc3',
      slots: [fromChannel('diffuse', 0), fromChannel('diffuse', 1), fromChannel('diffuse', 2), fromChannel('opacity')],
    },
    {
      ...dds,
      map: 'specular',
      transfer: 'srgb',
      block: 'bc3',
      slots: [
        fromChannel('specular-tint', 0),
        fromChannel('specular-tint', 1),
        fromChannel('specular-tint', 2),
        ownOr('strength', 128 / 255),
      ],
    },
    {
      ...dds,
      map: 'normal',
      transfer: 'raw',
      block: 'bc3',
      slots: [{ constant: 1 }, fromChannel('normal', 1), { constant: 0 }, fromChannel('normal', 0)],
    },
  ],
})
