import { encodeSrgb } from '../colour/srgb'
import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import type { Channel } from '../document/channels'
import type { PlausibleRange } from '../document/channel'

/** One curve of a chart: ratios of the texels it is about. Shape: `BINS` bins from `from` to `to` of the chart. */
export interface HistogramSeries {
  readonly word: string
  readonly bins: readonly number[]
  readonly mean: number
  readonly min: number
  readonly max: number
  readonly plausible?: PlausibleRange
}

/** The histogram of a channel, in the numbers files hold. */
export interface ChannelHistogram {
  readonly channel: string
  readonly title: string
  readonly from: number
  readonly to: number
  readonly plausible: readonly PlausibleRange[]
  readonly series: readonly HistogramSeries[]
}

const BINS = 64

/** Histograms of channels. Colours by the brightest of their three, sRGB-encoded, metals apart from the rest. */
export function channelHistograms(channels: readonly { channel: Channel; field: Field }[]): ChannelHistogram[] {
  return channels.map(({ channel, field }) => {
    const { id, title, type, plausible: { ranges: plausible = [], metals, metalIn } = {} } = channel
    const metallic = channels.find((one) => one.channel.id === metalIn)?.field
    if (type === 'normal') {
      const series = ['x', 'y', 'z'].map((word, p) => histogram(field, word, -1, (i) => field.planes[p]![i]!)!)
      return { channel: id, title, from: -1, to: 1, plausible, series }
    }
    const value = type === 'grey' ? (i: number): number => field.planes[0]![i]! : (i: number) => brightest(field, i)
    if (!metals || !metallic)
      return { channel: id, title, from: 0, to: 1, plausible, series: [histogram(field, '', 0, value)!] }
    const isMetal = (x: number, y: number): boolean => metallic.planes[0]![rowStart(metallic, y) + x]! > 0.5
    const series = [
      { made: histogram(field, 'not metal', 0, value, (x, y) => !isMetal(x, y)), plausible: plausible[0] },
      { made: histogram(field, 'metal', 0, value, isMetal), plausible: metals },
    ].flatMap(({ made, plausible: own }) => (made ? [{ ...made, plausible: own }] : []))
    return { channel: id, title, from: 0, to: 1, plausible: series.flatMap((one) => one.plausible ?? []), series }
  })
}

const brightest = ({ planes: [r, g, b] }: Field, i: number): number => encodeSrgb(Math.max(r![i]!, g![i]!, b![i]!))

/** Null where no texel is meant. */
function histogram(
  field: Field,
  word: string,
  from: number,
  value: (i: number) => number,
  meant?: (x: number, y: number) => boolean,
): HistogramSeries | null {
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
