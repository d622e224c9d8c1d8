import type { OptionalChannel } from '../channel'

/** Common practice. */
const strandDirection: OptionalChannel = {
  id: 'strand-direction',
  title: 'Strand direction',
  use: 'strands',
  help: 'Which way strands run: 0.5 up the card, 0 and 1 a quarter turn to the left and right.',
  backdrop: 0.5,
}
export default strandDirection
