import { encodeSrgb } from '../colour/srgb'
import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import type { Channel } from '../document/channels'
import type { PlausibleBand } from '../document/plausible'
import { METAL, NON_METAL, PLAUSIBLE } from '../document/plausible'

/** One curve of a chart: shares of the texels it is about. Shape: `BINS` bins from `from` to `to` of the chart. */
export interface SpreadSeries {
  readonly word: string
  readonly bins: readonly number[]
  readonly mean: number
  readonly min: number
  readonly max: number
  readonly band?: PlausibleBand
}

/** How a channel's values are spread, in the numbers files hold. */
export interface ChannelSpread {
  readonly channel: string
  readonly title: string
  readonly from: number
  readonly to: number
  readonly bands: readonly PlausibleBand[]
  readonly series: readonly SpreadSeries[]
}

const BINS = 64

/** Spreads of channels. Colours by the brightest of their three, sRGB-encoded, metals apart from the rest. */
export function channelSpreads(channels: readonly { channel: Channel; field: Field }[]): ChannelSpread[] {
  const metallic = channels.find(({ channel }) => channel.id === 'metallic')?.field
  return channels.map(({ channel, field }) => {
    const { id, title, type } = channel
    const bands = PLAUSIBLE[id] ?? []
    if (type === 'normal') {
      const series = ['x', 'y', 'z'].map((word, p) => spread(field, word, -1, (i) => field.planes[p]![i]!)!)
      return { channel: id, title, from: -1, to: 1, bands, series }
    }
    const value = type === 'grey' ? (i: number): number => field.planes[0]![i]! : (i: number) => brightest(field, i)
    if (id !== 'colour' || !metallic)
      return { channel: id, title, from: 0, to: 1, bands, series: [spread(field, '', 0, value)!] }
    const isMetal = (x: number, y: number): boolean => metallic.planes[0]![rowStart(metallic, y) + x]! > 0.5
    const series = [
      { made: spread(field, 'not metal', 0, value, (x, y) => !isMetal(x, y)), band: NON_METAL },
      { made: spread(field, 'metal', 0, value, isMetal), band: METAL },
    ].flatMap(({ made, band }) => (made ? [{ ...made, band }] : []))
    return { channel: id, title, from: 0, to: 1, bands: series.map(({ band }) => band), series }
  })
}

const brightest = ({ planes: [r, g, b] }: Field, i: number): number => encodeSrgb(Math.max(r![i]!, g![i]!, b![i]!))

/** Null where no texel is meant. */
function spread(
  field: Field,
  word: string,
  from: number,
  value: (i: number) => number,
  meant?: (x: number, y: number) => boolean,
): SpreadSeries | null {
  const bins = new Array<number>(BINS).fill(0)
  let [count, sum, min, max] = [0, 0, Infinity, -Infinity]
  for (let y = 0; y < field.rows; y++)
    for (let x = 0; x < field.width; x++) {
      if (meant && !meant(x, y)) continue
      const v = value(rowStart(field, y) + x)
      const bin = Math.min(BINS - 1, Math.max(0, Math.floor(((v - from) / (1 - from)) * BINS)))
      bins[bin]!++
      count++
      sum += v
      if (v < min) min = v
      if (v > max) max = v
    }
  return count === 0 ? null : { word, bins: bins.map((n) => n / count), mean: sum / count, min, max }
}
