import type { FixedChannel } from '../channel'

/** What lies between 0.2 and 0.8 is neither metal nor none. Common practice, from memory. */
const metallic: FixedChannel = {
  id: 'metallic',
  order: 3,
  title: 'Metallic',
  short: 'metal',
  type: 'grey',
  backdrop: [0],
  transfer: 'raw',
  range: [0, 1],
  checks: ['half-metal'],
  plausible: {
    ranges: [
      { from: 0, to: 0.2, word: 'no metal' },
      { from: 0.8, to: 1, word: 'metal' },
    ],
  },
  fileWords: ['metal', 'metallic', 'metalness', 'met'],
}
export default metallic
