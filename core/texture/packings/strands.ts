import { fromChannel, normal, occlusion, ownOr } from '../common-files'
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
      slots: [ownOr('root', 0), ownOr('tip', 0), ownOr('tone', 0.5)],
    },
    { map: 'opacity', transfer: 'raw', format: 'png', bits: 8, slots: [fromChannel('opacity')] },
    normal('up'),
    occlusion,
  ],
})
