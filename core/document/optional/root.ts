import type { OptionalChannel } from '../channel'

/** Common practice. */
const root: OptionalChannel = {
  id: 'root',
  title: 'Root',
  use: 'strands',
  help: '1 at the roots of strands, 0 from where their own tone begins.',
  backdrop: 0,
}
export default root
