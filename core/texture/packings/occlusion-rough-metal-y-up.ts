import { definePacking } from '../packing'
import { colourWithOpacity, emission, normal, occlusionRoughMetal } from '../common-files'

/** Source: glTF 2.0, section 3.9 (material textures and their channels). */
export default definePacking({
  name: 'occlusion-rough-metal-y-up',
  title: 'Occlusion-rough-metal, Y up',
  summary: 'Colour with opacity; normal with Y up; occlusion, roughness and metallic in R, G, B; emission.',
  files: [colourWithOpacity, normal('up'), occlusionRoughMetal, emission],
})
