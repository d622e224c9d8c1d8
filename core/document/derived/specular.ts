import type { FixedChannel } from '../channel'

/** What is reflected straight on, of base colour and metallic. Source: KHR_materials_pbrSpecularGlossiness. */
const specular: FixedChannel = {
  id: 'specular',
  order: 1,
  title: 'Specular',
  short: 'spec',
  type: 'colour',
  backdrop: [0.04, 0.04, 0.04],
  transfer: 'srgb',
  range: [0, 1],
  derived: { node: 'metal-to-specular', port: 'specular' },
  checks: ['specular-energy', 'specular-level'],
}
export default specular
