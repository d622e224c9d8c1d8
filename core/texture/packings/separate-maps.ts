import { definePacking } from '../packing'

/** Every channel on its own. */
export default definePacking({
  name: 'separate-maps',
  title: 'Separate maps',
  summary: 'Every channel in a file of its own, 16 bits.',
  files: [],
  everyChannel: { format: 'png', bits: 16 },
})
