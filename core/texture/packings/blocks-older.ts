import { definePacking } from '../packing'
import { colourWithOpacity, fromChannel, ofColour, specularWithStrength } from '../common-files'

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
      slots: [...ofColour('diffuse'), fromChannel('opacity')],
    },
    { ...dds, ...specularWithStrength, block: 'bc3' },
    {
      ...dds,
      map: 'normal',
      transfer: 'raw',
      block: 'bc3',
      slots: [{ constant: 1 }, fromChannel('normal', 1), { constant: 0 }, fromChannel('normal', 0)],
    },
  ],
})
