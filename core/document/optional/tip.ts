import type { OptionalChannel } from '../channel'

/** Common practice. */
const tip: OptionalChannel = {
  id: 'tip',
  title: 'Tip',
  use: 'strands',
  help: '1 at the tips of strands, 0 up to where their own tone ends.',
  backdrop: 0,
}
export default tip
