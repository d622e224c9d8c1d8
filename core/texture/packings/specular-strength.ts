import { fromChannel, normal, ownOr } from '../common-files'
import { definePacking } from '../packing'

const tga = { format: 'tga', bits: 8 } as const

/** Common practice of older renderers: strength 128 of 255 where a material does not say otherwise. */
export default definePacking({
  name: 'specular-strength',
  title: 'Specular and strength, 32-bit',
  summary:
    'Diffuse; specular colour with its strength in A (half without a channel “strength”); normal with Y up; all as TGA.',
  files: [
    {
      ...tga,
      map: 'diffuse',
      transfer: 'srgb',
      slots: [fromChannel('diffuse', 0), fromChannel('diffuse', 1), fromChannel('diffuse', 2)],
    },
    {
      ...tga,
      map: 'specular',
      transfer: 'srgb',
      slots: [
        fromChannel('specular-tint', 0),
        fromChannel('specular-tint', 1),
        fromChannel('specular-tint', 2),
        ownOr('strength', 128 / 255),
      ],
    },
    { ...normal('up'), ...tga },
  ],
})
