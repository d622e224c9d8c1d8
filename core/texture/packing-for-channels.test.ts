import { packings } from './packings/packings.generated'
import { packingForChannels } from './packing-for-channels'

const maps = (name: string, ...channels: string[]): string[] =>
  packingForChannels(
    packings.find((one) => one.name === name)!,
    new Set(channels),
  ).files.map(({ map }) => map)

test('only files that hold something of the channels are left', () => {
  expect(maps('occlusion-rough-metal-y-up', 'roughness', 'normal')).toEqual(['normal', 'occlusion-rough-metal'])
  expect(maps('separate-maps', 'height', 'colour')).toEqual(['colour', 'height'])
  expect(maps('specular-gloss', 'diffuse', 'specular')).toEqual(['diffuse', 'specular-gloss'])
})

test('where none is left that is said', () => expect(() => maps('frames', 'height')).toThrow('takes nothing of height'))
