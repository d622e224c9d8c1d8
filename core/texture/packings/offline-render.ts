import { emission, fromChannel, normal } from '../common-files'
import { definePacking } from '../packing'

const deep = { format: 'tiff', bits: 16 } as const

/** Common practice: nothing packed together, 16 bits, and height as floats in metres for displacement. */
export default definePacking({
  name: 'offline-render',
  title: 'Offline render',
  summary:
    'Colour, opacity, emission, roughness, metallic and normal with Y up as 16-bit TIFF; height as float EXR, in metres from the surface.',
  files: [
    {
      ...deep,
      map: 'colour',
      transfer: 'srgb',
      slots: [fromChannel('colour', 0), fromChannel('colour', 1), fromChannel('colour', 2)],
    },
    { ...deep, map: 'opacity', transfer: 'raw', slots: [fromChannel('opacity')] },
    { ...emission, ...deep },
    { ...deep, map: 'roughness', transfer: 'raw', slots: [fromChannel('roughness')] },
    { ...deep, map: 'metallic', transfer: 'raw', slots: [fromChannel('metallic')] },
    { ...normal('up'), ...deep },
    { map: 'height', transfer: 'raw', format: 'exr', bits: 32, slots: [fromChannel('height')] },
  ],
})
