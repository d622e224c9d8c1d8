import { linearToOklab, oklabToLinear } from '../colour/oklab'
import type { Rgb } from '../colour/srgb'
import { decodeSrgb, encodeSrgb } from '../colour/srgb'
import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { bounded } from '../field/limits'
import type { Rows } from './rows'
import { simd } from './simd'

/** A stop of a gradient: its place and its colour in linear light. */
export interface LinearStop {
  readonly at: number
  readonly colour: Rgb
}

/** In the order of their numbers in core/kernels/assembly/gradient.ts. */
export const MIX_SPACES = ['oklab', 'linear', 'srgb'] as const
export const INTERPOLATIONS = ['linear', 'smooth', 'stepped'] as const
export type MixSpace = (typeof MIX_SPACES)[number]
export type Interpolation = (typeof INTERPOLATIONS)[number]

const into: Record<MixSpace, (c: Rgb) => Rgb> = {
  oklab: linearToOklab,
  linear: (c) => c,
  srgb: ([r, g, b]) => [encodeSrgb(r), encodeSrgb(g), encodeSrgb(b)],
}
const outOf: Record<MixSpace, (c: Rgb) => Rgb> = {
  oklab: oklabToLinear,
  linear: (c) => c,
  srgb: ([r, g, b]) => [decodeSrgb(r), decodeSrgb(g), decodeSrgb(b)],
}

/**
 * A function from a grey value to a linear colour. Before the first stop its colour holds, after the last likewise;
 * at a place shared by several stops the last one holds. `smooth` eases each segment by 3t² − 2t³.
 * Throws RangeError where there is no stop.
 */
export function gradientLookup(stops: readonly LinearStop[], space: MixSpace, how: Interpolation): (v: number) => Rgb {
  if (stops.length === 0) throw new RangeError('a gradient needs at least one stop')
  const places = stops.map((stop) => stop.at)
  const mixed = stops.map((stop) => into[space](stop.colour))
  return (v) => {
    let i = 0
    while (i < places.length && places[i]! <= v) i++
    if (i === 0) return stops[0]!.colour
    if (i === places.length || how === 'stepped') return stops[i - 1]!.colour
    const from = places[i - 1]!
    let t = (v - from) / (places[i]! - from)
    if (how === 'smooth') t = t * t * (3 - 2 * t)
    const a = mixed[i - 1]!
    const b = mixed[i]!
    return outOf[space]([a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t])
  }
}

/** A grey field's values as colours (gradientLookup). The result is kept finite. */
export function gradientFields(
  source: Field,
  out: Field,
  rows: Rows,
  stops: readonly LinearStop[],
  space: MixSpace,
  how: Interpolation,
): void {
  const plane = source.planes[0]!
  const twin = simd()
  if (twin)
    return twin.scratch(() => {
      const at = twin.take(14 * stops.length)
      const numbers = new Float64Array(twin.shared.buffer, at, 7 * stops.length)
      numbers.set(stops.flatMap(({ at: place, colour }) => [place, ...colour, ...into[space](colour)]))
      const outputs = out.planes.map((one) => [out, one] as const)
      const [spaceNumber, howNumber] = [MIX_SPACES.indexOf(space), INTERPOLATIONS.indexOf(how)]
      twin.runs(rows, out.width, [[source, plane]], outputs, (count, [from], [r, g, b]) =>
        twin.assembly.gradient(from!, r!, g!, b!, count, at, stops.length, spaceNumber, howNumber),
      )
    })
  const lookup = gradientLookup(stops, space, how)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [from, to] = [rowStart(source, y), rowStart(out, y)]
    for (let x = 0; x < out.width; x++) {
      const colour = lookup(plane[from + x]!)
      out.planes.forEach((one, p) => (one[to + x] = bounded(colour[p]!)))
    }
  }
}
