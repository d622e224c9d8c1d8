import type { OptionalChannel } from '../channel'

/** Common practice. */
const tone: OptionalChannel = {
  id: 'tone',
  title: 'Tone',
  use: 'strands',
  help: 'Which tone a strand has, between the two of the renderer: half is between both.',
  backdrop: 0.5,
}
export default tone
