import type { OptionalChannel } from '../channel'

/** Common practice. */
const strength: OptionalChannel = {
  id: 'strength',
  title: 'Strength',
  use: 'older renderers',
  help: 'How strong and tight highlights are, in 255ths: dull 11, middling 15, shiny 20. Goes into alpha.',
  backdrop: 15 / 255,
  usual: [0, 30 / 255],
}
export default strength
