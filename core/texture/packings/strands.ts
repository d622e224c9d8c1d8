import root from '../../document/optional/root'
import tip from '../../document/optional/tip'
import tone from '../../document/optional/tone'
import { fromChannel, normal, occlusion, optional } from '../common-files'
import { definePacking } from '../packing'

/** Common practice for strand cards: tones of root, tip and single strands are mixed by the renderer. */
export default definePacking({
  name: 'strands',
  title: 'Strands',
  summary:
    'Root in R, tip in G and spread of tones in B, from channels of these names (“root”, “tip”, “tone”); opacity as a grey file; normal with Y up; occlusion.',
  files: [
    {
      map: 'strands',
      transfer: 'raw',
      format: 'png',
      bits: 8,
      slots: [optional(root), optional(tip), optional(tone)],
    },
    { map: 'opacity', transfer: 'raw', format: 'png', bits: 8, slots: [fromChannel('opacity')] },
    normal('up'),
    occlusion,
  ],
})
