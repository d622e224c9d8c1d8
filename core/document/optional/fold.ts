import type { OptionalChannel } from '../channel'

/** Common practice. */
const fold: OptionalChannel = {
  id: 'fold',
  title: 'Highlights in diffuse',
  use: 'older renderers',
  help: 'How much of the specular tint is added to the diffuse colour of deliveries that ask for it, per ID for example: 0.35 to 0.8.',
  backdrop: 0.5,
}
export default fold
