import { emission, fromChannel, normal, occlusion, ofColour } from '../common-files'
import { definePacking } from '../packing'

const png = { format: 'png', bits: 8 } as const

/** Source: glTF extension KHR_materials_pbrSpecularGlossiness (diffuseTexture, specularGlossinessTexture). */
export default definePacking({
  name: 'specular-gloss',
  title: 'Specular-gloss',
  summary: 'Diffuse with opacity; specular colour with gloss in A; normal with Y up; occlusion; emission.',
  files: [
    {
      ...png,
      map: 'diffuse',
      transfer: 'srgb',
      slots: [...ofColour('diffuse'), fromChannel('opacity')],
    },
    {
      ...png,
      map: 'specular-gloss',
      transfer: 'srgb',
      slots: [...ofColour('specular'), fromChannel('roughness', 0, true)],
    },
    normal('up'),
    occlusion,
    emission,
  ],
})
