import { linearToOklab, oklabToLinear } from '../colour/oklab'
import type { Rgb } from '../colour/srgb'
import { decodeSrgb, encodeSrgb } from '../colour/srgb'

/** A stop of a gradient: its place and its colour in linear light. */
export interface LinearStop {
  readonly at: number
  readonly colour: Rgb
}

export type MixSpace = 'oklab' | 'linear' | 'srgb'
export type Interpolation = 'linear' | 'smooth' | 'stepped'

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
