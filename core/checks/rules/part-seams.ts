import type { Field } from '../../field/field'
import type { ReadAt } from '../../kernels/bilinear'
import { bilinearReader } from '../../kernels/bilinear'
import type { CheckRule } from '../check'
import type { CheckSubject } from '../subject'
import type { Mark } from '../texels-where'

const LIMIT = 3
/** Steps smaller than this are not seen, whatever lies inside. */
const UNSEEN = 4 / 255
/** The step that one in so many is above, over seams and inside. */
const PERCENTILE = 0.95
/** Places looked at, at most, over seams and inside. */
const MAX_PLACES = 60_000
/** Numbers of an edge in a layout. */
const EDGE = 12
const MARKS = 12

/** The step across seams against the step across edges inside of islands, both two texels wide, where the surface goes on smoothly. */
const partSeams: CheckRule = {
  name: 'part-seams',
  title: 'Seams do not show',
  reference:
    'Own derivation: values a texel away from an edge on either side; the 95th percentile over seams against that inside, factor 3, and more than 4 of 255.',
  ofParts: true,
  run: (subject) =>
    stepsOf(subject)
      .filter(({ over, inside }) => over > UNSEEN && over / inside > LIMIT)
      .slice(0, 1)
      .map(({ channel, over, inside, marks, also }) => ({
        severity: 'warning' as const,
        channel,
        message: `steps by ${over.toFixed(3)} over seams of the UVs, ${(over / inside).toFixed(1)} times as much as inside.${also}`,
        value: over / inside,
        fix: 'Look for what is laid out in UVs: solid noise and projections go over seams.',
        marks,
      })),
  measure: (subject) => {
    const [worst] = stepsOf(subject)
    return worst ? `step over seams ${worst.over.toFixed(3)}, inside ${worst.inside.toFixed(3)}` : null
  },
}

interface Steps {
  readonly channel: string
  readonly over: number
  readonly inside: number
  readonly marks: readonly Mark[]
  /** The other channels that step, in words. */
  readonly also: string
}

/** Steps of every channel that has no direction, the worst first. */
function stepsOf({ channels, part }: CheckSubject): Steps[] {
  const { seams, inner } = part!.layout
  if (seams.length === 0) return []
  const found = channels
    .filter(({ channel, field }) => channel.type !== 'normal' && field.stride !== 0)
    .map(({ channel, field, steps }) => {
      const over = stepsAlong(seams, field)
      const inside = percentile(stepsAlong(inner, field).map(({ step }) => step))
      // Files hold whole steps: values may differ by one of them for nothing.
      const floor = steps > 0 ? 1.5 / steps : 1e-4
      const marks = [...over].sort((a, b) => b.step - a.step).slice(0, MARKS)
      return {
        channel: channel.id,
        over: percentile(over.map(({ step }) => step)),
        inside: Math.max(floor, inside),
        marks: marks.map(({ at }) => at),
      }
    })
    .sort((a, b) => b.over / b.inside - a.over / a.inside)
  const worse = found.filter(({ over, inside }) => over > UNSEEN && over / inside > LIMIT).slice(1)
  const also = worse.length > 0 ? ` So do ${worse.map(({ channel }) => channel).join(', ')}.` : ''
  return found.map((one) => ({ ...one, also }))
}

function percentile(values: number[]): number {
  const sorted = values.sort((a, b) => a - b)
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * PERCENTILE))] ?? 0
}

/** The largest difference of any plane between both sides of edges, at places along them about two texels apart. */
function stepsAlong(edges: Float64Array, field: Field): { step: number; at: Mark }[] {
  const readers = field.planes.map((plane) => bilinearReader(field, plane))
  const total = Math.max(1, edges.length / EDGE)
  const most = Math.max(1, Math.floor(MAX_PLACES / total))
  const every = Math.max(1, Math.ceil(total / MAX_PLACES))
  const found: { step: number; at: Mark }[] = []
  for (let e = 0; e + EDGE <= edges.length; e += EDGE * every) {
    const length = lengthOf(edges, e, field)
    const count = Math.max(1, Math.min(most, Math.round(length / 2)))
    for (let i = 0; i < count; i++) {
      const along = (i + 0.5) / count
      const [a, b] = [beside(edges, e, along, field), beside(edges, e + EDGE / 2, along, field)]
      if (!a || !b) continue
      const step = Math.max(...readers.map((read) => Math.abs(readAt(read, a) - readAt(read, b))))
      found.push({ step, at: [a[0] / field.width, a[1] / field.height] })
    }
  }
  return found
}

const readAt = (read: ReadAt, [x, y]: readonly [number, number]): number => read(x - 0.5, y - 0.5)

const lengthOf = (edges: Float64Array, e: number, { width, height }: Field): number =>
  Math.sqrt(((edges[e + 2]! - edges[e]!) * width) ** 2 + ((edges[e + 3]! - edges[e + 1]!) * height) ** 2)

/** The place a texel away from an edge into its triangle, in texels; null where the triangle is too flat for it. */
function beside(
  edges: Float64Array,
  e: number,
  along: number,
  { width, height }: Field,
): readonly [number, number] | null {
  const x = (i: number): number => edges[e + i * 2]! * width
  const y = (i: number): number => edges[e + i * 2 + 1]! * height
  const [dx, dy] = [x(1) - x(0), y(1) - y(0)]
  const length = Math.sqrt(dx * dx + dy * dy)
  const across = (dx * (y(2) - y(0)) - dy * (x(2) - x(0))) / length
  if (!(Math.abs(across) > 1.5)) return null
  const side = Math.sign(across)
  return [x(0) + along * dx - (side * dy) / length, y(0) + along * dy + (side * dx) / length]
}

export default partSeams
