import { definePacking } from '../packing'
import { colourWithOpacity, emission, normal, occlusionRoughMetal } from '../common-files'

/** Common practice for renderers whose normal maps count Y downward. */
export default definePacking({
  name: 'occlusion-rough-metal-y-down',
  title: 'Occlusion-rough-metal, Y down',
  summary: 'As Y up, with the normal’s green inverted.',
  files: [colourWithOpacity, normal('down'), occlusionRoughMetal, emission],
})
