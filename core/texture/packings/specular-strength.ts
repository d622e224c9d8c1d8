import { normal, ofColour, specularWithStrength } from '../common-files'
import { definePacking } from '../packing'

const tga = { format: 'tga', bits: 8 } as const

/** Common practice of older renderers. */
export default definePacking({
  name: 'specular-strength',
  title: 'Specular and strength, 32-bit',
  summary:
    'Diffuse; specular tint with its strength in A (15 of 255 without a channel “strength”); normal with Y up; all as TGA.',
  files: [
    { ...tga, map: 'diffuse', transfer: 'srgb', slots: ofColour('diffuse') },
    { ...tga, ...specularWithStrength },
    { ...normal('up'), ...tga },
  ],
})
