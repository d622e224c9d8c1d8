import { definePacking } from '../packing'
import { colourWithOpacity, emission, normal, occlusion, fromChannel } from '../common-files'

/** Common practice: metal in the colour channels, smoothness (1 − roughness) in alpha. */
export default definePacking({
  name: 'metal-gloss-alpha',
  title: 'Metal with gloss in alpha',
  summary: 'Colour with opacity; metallic in R, G, B and gloss in A; normal with Y up; occlusion; emission.',
  files: [
    colourWithOpacity,
    {
      map: 'metal-gloss',
      transfer: 'raw',
      format: 'png',
      bits: 8,
      slots: [
        fromChannel('metallic'),
        fromChannel('metallic'),
        fromChannel('metallic'),
        fromChannel('roughness', 0, true),
      ],
    },
    normal('up'),
    occlusion,
    emission,
  ],
})
