import { normal, ofColour, specularWithStrength } from '../common-files'
import { definePacking } from '../packing'

const tga = { format: 'tga', bits: 8 } as const

/** Common practice of older renderers that show few highlights of their own. */
export default definePacking({
  name: 'specular-strength-painted',
  title: 'Specular and strength, highlights painted',
  summary:
    'The same as specular and strength, with highlights painted into the diffuse file where surfaces face up (half of them without a channel “fold”).',
  files: [
    { ...tga, map: 'diffuse', transfer: 'srgb', slots: ofColour('diffuse-highlights') },
    { ...tga, ...specularWithStrength },
    { ...normal('up'), ...tga },
  ],
})
