import type { OptionalChannel } from '../channel'

/** Common practice. */
const highlights: OptionalChannel = {
  id: 'highlights',
  title: 'Highlights',
  use: 'older renderers',
  help: 'Where the specular tint has painted highlights: 1 is white.',
  backdrop: 0,
}
export default highlights
