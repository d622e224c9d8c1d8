import type { OptionalChannel } from '../channel'

/** Common practice. */
const upward: OptionalChannel = {
  id: 'upward',
  title: 'Upward',
  use: 'older renderers',
  help: 'What faces up: the specular tint is darker there, against painted light from above. Made of the mesh data on a part.',
  backdrop: 0,
  onPart: { data: 'object-normal', node: 'facing', params: {}, port: 'cosine' },
}
export default upward
