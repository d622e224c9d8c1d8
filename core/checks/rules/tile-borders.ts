import type { Mark } from '../texels-where'
import { rowStart } from '../../field/field'
import type { CheckSubject } from '../subject'
import type { CheckRule } from '../check'

const LIMIT = 2.5

const SIDES = ['left and right', 'top and bottom'] as const
type Side = (typeof SIDES)[number]

/** Where a border that does not meet shows. */
const BORDER: Record<Side, readonly Mark[]> = {
  'left and right': [0.1, 0.3, 0.5, 0.7, 0.9].map((v) => [0, v] as const),
  'top and bottom': [0.1, 0.3, 0.5, 0.7, 0.9].map((u) => [u, 0] as const),
}

/** The step across the border against the steps inside. */
const tileBorders: CheckRule = {
  name: 'tile-borders',
  title: 'Edges meet',
  ofTiles: true,
  reference: 'Own derivation: the mean step over the border against the 16 largest mean steps inside, factor 2.5.',
  run: (subject) =>
    SIDES.flatMap((side) => {
      // A fault in one channel goes on into those made from it: it is told once, of the first.
      const [first, ...others] = borders(subject).filter((one) => one.side === side && one.border / one.inside > LIMIT)
      if (!first) return []
      const ratio = first.border / first.inside
      const also = others.length > 0 ? ` Nor do ${others.map(({ channel }) => channel).join(', ')}.` : ''
      return [
        {
          severity: 'error' as const,
          channel: first.channel,
          message: `does not continue from ${side}: the step there is ${ratio.toFixed(1)} times the largest inside.${also}`,
          value: ratio,
          fix: 'Look for a ramp or an image that does not tile.',
          marks: BORDER[side],
        },
      ]
    }),
  measure: (subject) => {
    const all = borders(subject).sort((a, b) => b.border / b.inside - a.border / a.inside)
    return all[0] ? `step over the border ${all[0].border.toFixed(3)}, inside up to ${all[0].inside.toFixed(3)}` : null
  },
}

interface Border {
  readonly channel: string
  readonly side: Side
  readonly border: number
  readonly inside: number
}

/** Mean steps over the borders, and the largest mean steps inside, of every channel: of the plane that is worst. */
function borders({ channels }: CheckSubject): Border[] {
  return channels.flatMap(({ channel, field, steps }) => {
    const all = field.planes.flatMap((plane) => {
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
      const pair = (means: number[], side: Side): Border => {
        const border = means.pop()!
        const largest = means.sort((a, b) => b - a).slice(0, 16)
        const mean = largest.reduce((sum, v) => sum + v, 0) / Math.max(1, largest.length)
        return { channel: channel.id, side, border, inside: Math.max(floor, mean) }
      }
      return [pair(across, 'left and right'), pair(down, 'top and bottom')]
    })
    return SIDES.map((side) =>
      all.filter((one) => one.side === side).reduce((a, b) => (b.border / b.inside > a.border / a.inside ? b : a)),
    )
  })
}
export default tileBorders
