import type { FixedChannel } from '../channel'

/** The diffuse colour with highlights of older renderers painted in, where surfaces face up. Common practice. */
const diffuseHighlights: FixedChannel = {
  id: 'diffuse-highlights',
  order: 3,
  title: 'Diffuse with highlights',
  short: 'lit diff.',
  type: 'colour',
  backdrop: [0, 0, 0],
  transfer: 'srgb',
  range: [0, 1],
  derived: {
    node: 'fold-highlights',
    port: 'result',
    takes: { specular: 'specular-tint', amount: 'fold' },
    bakes: ['upward'],
  },
}
export default diffuseHighlights
