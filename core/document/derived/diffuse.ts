import type { FixedChannel } from '../channel'

/** What is scattered, of base colour and metallic. Source: KHR_materials_pbrSpecularGlossiness. */
const diffuse: FixedChannel = {
  id: 'diffuse',
  order: 0,
  title: 'Diffuse',
  type: 'colour',
  backdrop: [0, 0, 0],
  transfer: 'srgb',
  range: [0, 1],
  derived: { node: 'metal-to-specular', port: 'diffuse' },
}
export default diffuse
