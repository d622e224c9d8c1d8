import type { FixedChannel } from '../channel'

const emission: FixedChannel = {
  id: 'emission',
  order: 7,
  title: 'Emission',
  short: 'emit',
  type: 'colour',
  backdrop: [0, 0, 0],
  transfer: 'srgb',
  range: [0, 1],
  checks: ['emission-strength'],
  fileWords: ['emission', 'emissive', 'emit'],
}
export default emission
