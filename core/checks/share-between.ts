import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import type { CheckRule } from './check'
import { channelsFor } from './check'
import { texelsWhere } from './texels-where'

interface Between extends Pick<CheckRule, 'name' | 'title' | 'reference'> {
  /** What is judged of a texel, by its index in the planes. */
  readonly of: (planes: Field['planes'], index: number) => number
  readonly from: number
  readonly to: number
  /** The share of the texels from which it is found. */
  readonly limit: number
  /** What it is there, before “in so many % of the texels”. */
  readonly message: string
  readonly fix: string
}

/** A rule about channels whose values lie on one side of a gap or on the other; only thin borders lie within. */
export function shareBetween({ of, from, to, limit, message, fix, ...words }: Between): CheckRule {
  const between = (field: Field): ReturnType<typeof texelsWhere> =>
    texelsWhere(field, (x, y) => {
      const v = of(field.planes, rowStart(field, y) + x)
      return v > from && v < to
    })
  return {
    ...words,
    run: (subject) =>
      channelsFor(subject, words.name).flatMap(({ channel, field }) => {
        const { ratio, marks } = between(field)
        if (ratio < limit) return []
        const inWords = `${message} in ${(100 * ratio).toFixed(1)} % of the texels.`
        return [{ severity: 'warning' as const, channel: channel.id, message: inWords, value: ratio, fix, marks }]
      }),
    measure: (subject) => {
      const field = channelsFor(subject, words.name)[0]?.field
      return field ? `in ${(100 * (1 - between(field).ratio)).toFixed(1)} % of the texels` : null
    },
  }
}
