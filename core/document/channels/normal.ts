import type { FixedChannel } from '../channel'

const normal: FixedChannel = {
  id: 'normal',
  order: 4,
  title: 'Normal',
  type: 'normal',
  backdrop: [0, 0, 1],
  transfer: 'raw',
  range: [-1, 1],
  takesHeight: 'slopes',
  fileWords: ['normal', 'normals', 'nrm', 'nor', 'norm', 'nm'],
}
export default normal
