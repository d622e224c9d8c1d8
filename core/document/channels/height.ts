import type { FixedChannel } from '../channel'

const height: FixedChannel = {
  id: 'height',
  order: 1,
  title: 'Height',
  type: 'grey',
  backdrop: [0.5],
  transfer: 'raw',
  range: [0, 1],
  isHeight: true,
  checks: ['height-steps'],
  fileWords: ['height', 'displacement', 'disp'],
}
export default height
