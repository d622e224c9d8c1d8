import { definePacking } from '../packing'
import { colourWithOpacity, emission, fromChannel, normal, occlusionRoughMetal } from '../common-files'

const dds = { format: 'dds', bits: 8, mips: true } as const

/** Which blocks hold what: common practice. Channels as in glTF 2.0, section 3.9. */
export default definePacking({
  name: 'blocks-y-up',
  title: 'Blocks for graphics cards, Y up',
  summary:
    'DDS with mips: colour with opacity in BC7; normal by X and Y in BC5; occlusion, roughness and metallic in BC7; emission in BC1; height in BC4.',
  files: [
    { ...colourWithOpacity, ...dds, block: 'bc7' },
    { ...normal('up'), ...dds, block: 'bc5' },
    { ...occlusionRoughMetal, ...dds, block: 'bc7', roughens: true },
    { ...emission, ...dds, block: 'bc1' },
    { ...dds, map: 'height', transfer: 'raw', slots: [fromChannel('height')], block: 'bc4' },
  ],
})
