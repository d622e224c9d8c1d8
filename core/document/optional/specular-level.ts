import type { OptionalChannel } from '../channel'

/** Common practice. */
const specularLevel: OptionalChannel = {
  id: 'specular-level',
  title: 'Specular level',
  use: 'older renderers',
  help: 'Multiplies how bright the specular tint of non-metals is, per ID for example: 1 as it is made.',
  backdrop: 1,
}
export default specularLevel
