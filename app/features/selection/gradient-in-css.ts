import type { Stop } from '#core/graph/parameters'
import { hexToLinear, linearToHex } from '#core/colour/srgb'
import type { Interpolation, MixSpace } from '#core/kernels/gradient'
import { INTERPOLATIONS, MIX_SPACES, gradientLookup } from '#core/kernels/gradient'

/** Pieces that a stretch between two stops is drawn in. */
const PIECES = 8

const percent = (at: number): string => `${Number((at * 100).toFixed(3))}%`
const oneOf = <T extends string>(values: readonly T[], value: unknown): T =>
  values.find((one) => one === value) ?? values[0]!

/** A ramp as the node computes it, as a CSS background: mixed in its space, straight, eased or in steps. */
export function gradientInCss(stops: readonly Stop[], mix: unknown, steps: unknown): string {
  const space: MixSpace = oneOf(MIX_SPACES, mix)
  const how: Interpolation = oneOf(INTERPOLATIONS, steps)
  const lookup = gradientLookup(
    stops.map(({ at, colour }) => ({ at, colour: hexToLinear(colour) })),
    space,
    how,
  )
  const parts = stops.flatMap((stop, index) => {
    const next = stops[index + 1]
    const own = `${stop.colour} ${percent(stop.at)}`
    if (!next) return [own]
    if (how === 'stepped') return [own, `${stop.colour} ${percent(next.at)}`]
    const between = Array.from({ length: PIECES - 1 }, (_, i) => {
      const at = stop.at + ((next.at - stop.at) * (i + 1)) / PIECES
      return `${linearToHex(lookup(at))} ${percent(at)}`
    })
    return [own, ...between]
  })
  return `linear-gradient(to right, ${[...parts, ...(stops.length === 1 ? [stops[0]!.colour] : [])].join(', ')})`
}
