import { fromChannel } from '../common-files'
import { definePacking } from '../packing'

/** Common practice for flames, sparks and lamps that flicker: one picture played by turning to the next frame. */
export default definePacking({
  name: 'frames',
  title: 'Frames',
  summary:
    'Emission with opacity in A, 4 × 4 frames row by row while the dial “Time” goes round once; the size is that of the whole sheet.',
  frames: { columns: 4, rows: 4, dial: 'Time', loops: true },
  files: [
    {
      map: 'frames',
      transfer: 'srgb',
      format: 'png',
      bits: 8,
      slots: [
        fromChannel('emission', 0),
        fromChannel('emission', 1),
        fromChannel('emission', 2),
        fromChannel('opacity'),
      ],
    },
  ],
})
