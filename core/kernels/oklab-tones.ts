import { linearToOklab, oklabToLinear } from '../colour/oklab'
import type { Rgb } from '../colour/srgb'
import { cosTurns, sinTurns } from '../elementary'

/** How tones are changed; hue in turns, the others as factors but for brightness, which is added. */
export interface ToneChange {
  readonly hue: number
  readonly saturation: number
  readonly brightness: number
  readonly contrast: number
}

/** The middle that contrast turns about, in lightness and in grey. */
const MIDDLE = 0.5

/** (v − ½) · contrast + ½ + brightness. */
export const changeLightness = (v: number, { brightness, contrast }: ToneChange): number =>
  (v - MIDDLE) * contrast + MIDDLE + brightness

/**
 * A linear colour with hue turned, chroma scaled, lightness scaled about ½ and moved, all in Oklab.
 * Source of the space: B. Ottosson 2020 (colour/oklab.ts); hue and chroma are the polar form of a and b.
 */
export function changeTone(change: ToneChange): (c: Rgb) => Rgb {
  const cos = cosTurns(change.hue) * change.saturation
  const sin = sinTurns(change.hue) * change.saturation
  return (colour) => {
    const [L, a, b] = linearToOklab(colour)
    return oklabToLinear([changeLightness(L, change), a * cos - b * sin, a * sin + b * cos])
  }
}

/** Distance of two colours in Oklab, with lightness differences weighed by `lightness` (0–1). */
export function oklabDistance(from: Rgb, lightness: number): (c: Rgb) => number {
  const [L0, a0, b0] = linearToOklab(from)
  return (colour) => {
    const [L, a, b] = linearToOklab(colour)
    const dL = (L - L0) * lightness
    return Math.sqrt(dL * dL + (a - a0) * (a - a0) + (b - b0) * (b - b0))
  }
}
