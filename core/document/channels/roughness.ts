import type { FixedChannel } from '../channel'

/** Below 0.02 a surface is a mirror and its highlight a point. Source: glTF 2.0, appendix B.3.1 (alpha = roughness²). */
const roughness: FixedChannel = {
  id: 'roughness',
  order: 2,
  title: 'Roughness',
  short: 'rough',
  type: 'grey',
  backdrop: [0.5],
  transfer: 'raw',
  range: [0, 1],
  mipsKeep: 'highlight',
  checks: ['mirror-roughness'],
  plausible: { ranges: [{ from: 0.02, to: 1, word: 'no mirror: 0.02 and above' }] },
  fileWords: ['rough', 'roughness', 'rgh'],
  invertedFileWords: ['gloss', 'glossiness', 'smoothness'],
}
export default roughness
