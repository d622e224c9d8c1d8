import type { FixedChannel } from '../channel'

const opacity: FixedChannel = {
  id: 'opacity',
  order: 6,
  title: 'Opacity',
  type: 'grey',
  backdrop: [1],
  transfer: 'raw',
  range: [0, 1],
  mipsKeep: 'coverage',
  checks: ['alpha-dropped'],
  fileWords: ['opacity', 'alpha', 'transparency'],
}
export default opacity
