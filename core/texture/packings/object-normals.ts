import { colourWithOpacity, emission, occlusionRoughMetal, ofColour } from '../common-files'
import { definePacking } from '../packing'

/** Common practice of renderers that have no tangents. */
export default definePacking({
  name: 'object-normals',
  title: 'Occlusion-rough-metal, object normals',
  summary: 'The same as glTF, with normals in the space of the model: for parts, whose form they hold.',
  files: [
    colourWithOpacity,
    occlusionRoughMetal,
    {
      ...{ format: 'png', bits: 8 },
      map: 'object-normal',
      transfer: 'raw',
      slots: ofColour('object-normal'),
    },
    emission,
  ],
})
