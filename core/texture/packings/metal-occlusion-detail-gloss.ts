import detail from '../../document/optional/detail'
import { fromChannel, normal, optional } from '../common-files'
import { definePacking } from '../packing'

/** Common practice: one mask file for layered engine shaders. */
export default definePacking({
  name: 'metal-occlusion-detail-gloss',
  title: 'Metal, occlusion, detail, gloss',
  summary:
    'Colour; a mask file with metallic in R, occlusion in G, where detail goes in B (everywhere without a channel “detail”) and gloss in A; normal with Y up.',
  files: [
    {
      map: 'colour',
      transfer: 'srgb',
      format: 'png',
      bits: 8,
      slots: [fromChannel('colour', 0), fromChannel('colour', 1), fromChannel('colour', 2)],
    },
    {
      map: 'masks',
      transfer: 'raw',
      format: 'png',
      bits: 8,
      slots: [fromChannel('metallic'), fromChannel('occlusion'), optional(detail), fromChannel('roughness', 0, true)],
    },
    normal('up'),
  ],
})
