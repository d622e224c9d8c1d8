import type { FixedChannel } from '../channel'

/** The specular colour of older renderers. Common practice. */
const specularTint: FixedChannel = {
  id: 'specular-tint',
  order: 2,
  title: 'Specular tint',
  short: 'tint',
  type: 'colour',
  backdrop: [0, 0, 0],
  transfer: 'srgb',
  range: [0, 1],
  derived: { node: 'specular-tint', port: 'result', takes: { level: 'specular-level' } },
}
export default specularTint
