import type { Mark } from '../texels-where'
import { rowStart } from '../../field/field'
import type { CheckRule, CheckSubject } from '../check'

const LIMIT = 2.5

type Side = 'left and right' | 'top and bottom'

/** Where a border that does not meet shows. */
const BORDER: Record<Side, readonly Mark[]> = {
  'left and right': [0.1, 0.3, 0.5, 0.7, 0.9].map((v) => [0, v] as const),
  'top and bottom': [0.1, 0.3, 0.5, 0.7, 0.9].map((u) => [u, 0] as const),
}

/** The step across the border against the steps inside. */
const tileBorders: CheckRule = {
  name: 'tile-borders',
  title: 'Edges meet',
  source: 'Own derivation: the mean step over the border against the 16 largest mean steps inside, factor 2.5.',
  run: (subject) =>
    borders(subject)
      .filter(({ border, inside }) => border / inside > LIMIT)
      .map(({ channel, side, border, inside }) => ({
        severity: 'error',
        channel,
        message: `does not continue from ${side}: the step there is ${(border / inside).toFixed(1)} times the largest inside.`,
        figure: border / inside,
        mend: 'Look for a ramp or an image that does not tile.',
        marks: BORDER[side],
      })),
  measure: (subject) => {
    const all = borders(subject).sort((a, b) => b.border / b.inside - a.border / a.inside)
    return all[0] ? `step over the border ${all[0].border.toFixed(3)}, inside up to ${all[0].inside.toFixed(3)}` : null
  },
}

/** Mean steps over the borders, and the largest mean steps inside, of every plane of every channel. */
function borders({ channels }: CheckSubject): { channel: string; side: Side; border: number; inside: number }[] {
  return channels.flatMap(({ channel, field, steps }) =>
    field.planes.flatMap((plane) => {
      const { width, rows } = field
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
      // Files hold whole steps: a border may differ by one of them for nothing.
      const floor = steps > 0 ? 1.5 / steps : 1e-4
      const pair = (means: number[], side: Side): { channel: string; side: Side; border: number; inside: number } => {
        const border = means.pop()!
        const largest = means.sort((a, b) => b - a).slice(0, 16)
        const mean = largest.reduce((sum, v) => sum + v, 0) / Math.max(1, largest.length)
        return { channel: channel.id, side, border, inside: Math.max(floor, mean) }
      }
      return [pair(across, 'left and right'), pair(down, 'top and bottom')]
    }),
  )
}
export default tileBorders
