import type { FixedChannel } from '../channel'

const occlusion: FixedChannel = {
  id: 'occlusion',
  order: 5,
  title: 'Occlusion',
  short: 'occl.',
  type: 'grey',
  backdrop: [1],
  transfer: 'raw',
  range: [0, 1],
  takesHeight: 'openness',
  isSlow: true,
  fileWords: ['occlusion', 'ao', 'ambientocclusion'],
}
export default occlusion
