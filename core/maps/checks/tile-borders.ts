import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'

const LIMIT = 2.5

/** The step across the border against the steps inside. */
const tileBorders: CheckRule = {
  name: 'tile-borders',
  title: 'Tile borders',
  source: 'Own derivation: the mean step over the border against the 16 largest mean steps inside, factor 2.5.',
  run: ({ channels }) =>
    channels.flatMap(({ channel, field, steps }) =>
      field.planes.flatMap((plane) => {
        const { width, rows } = field
        // Files hold whole steps: a border may differ by one of them for nothing.
        const floor = steps > 0 ? 1.5 / steps : 1e-4
        const across = Array.from({ length: width }, (_, x) => {
          let sum = 0
          for (let y = 0; y < rows; y++) {
            const row = rowStart(field, y)
            sum += Math.abs(plane[row + ((x + 1) % width)]! - plane[row + x]!)
          }
          return sum / rows
        })
        const down = Array.from({ length: rows }, (_, y) => {
          const here = rowStart(field, y)
          const next = rowStart(field, (y + 1) % rows)
          let sum = 0
          for (let x = 0; x < width; x++) sum += Math.abs(plane[next + x]! - plane[here + x]!)
          return sum / width
        })
        return [
          { steps: across, side: 'left and right' },
          { steps: down, side: 'top and bottom' },
        ].flatMap(({ steps: means, side }) => {
          const border = means.pop()!
          const largest = means.sort((a, b) => b - a).slice(0, 16)
          const inside = Math.max(floor, largest.reduce((sum, v) => sum + v, 0) / Math.max(1, largest.length))
          const ratio = border / inside
          if (ratio <= LIMIT) return []
          return [
            {
              severity: 'error' as const,
              channel: channel.id,
              message: `does not continue from ${side}: the step there is ${ratio.toFixed(1)} times the largest inside.`,
              figure: ratio,
              mend: 'Look for a ramp or an image that does not tile.',
              at: side === 'left and right' ? ([0, 0.5] as const) : ([0.5, 0] as const),
            },
          ]
        })
      }),
    ),
}
export default tileBorders
