import { fixedChannel } from '#core/document/channels'
import { Area, AreaChart, ReferenceArea, ResponsiveContainer, XAxis, YAxis } from 'recharts'
import type { ChannelHistogram } from '#core/preview/channel-histograms'
import { Choice } from '../../ui/choice'
import { useEvaluation } from '../../session/material'
import { MeanMinMax } from '../../ui/mean-min-max'
import { useMaps, useMapsView } from './maps'

/** Curves that can be told apart by lightness too. */
const COLOURS = ['var(--ink-soft)', '#b4690e', '#4a6fb0']

/** The histogram of a channel as the files hold them, with the stretch that real surfaces keep to. */
export function HistogramPane() {
  const { view } = useMaps()
  const histograms = useEvaluation((one) => one.packing.histograms)
  const wanted = useMapsView((one) => one.histogramChannel)
  if (!histograms)
    return (
      <p role="status" className="m-3 text-ink-soft">
        ◌ Counting values …
      </p>
    )
  if (histograms.length === 0) return <p className="m-3 text-ink-soft">No file holds a channel.</p>
  const histogram = histograms.find(({ channel }) => channel === wanted) ?? histograms[0]!
  return (
    <div className="flex flex-col gap-2 p-3">
      <Choice
        label="Channel"
        value={histogram.channel}
        options={histograms.map(({ channel, title }) => ({ value: channel, word: title }))}
        onChange={(next) => view.setState({ histogramChannel: next })}
        className="self-start"
      />
      <Chart histogram={histogram} />
    </div>
  )
}

function Chart({ histogram: { channel, title, from, to, plausible, series } }: { histogram: ChannelHistogram }) {
  const bins = series[0]?.bins.length ?? 1
  // A constant would hide everything else; a bar of a tenth of all texels is as high as the chart.
  const top = Math.max(0.02, Math.min(0.1, ...series.map((one) => Math.max(...one.bins))))
  const data = Array.from({ length: bins + 1 }, (_, i) => ({
    at: from + (i / bins) * (to - from),
    ...Object.fromEntries(series.map((one, s) => [`s${s}`, Math.min(top, one.bins[Math.min(i, bins - 1)]!)])),
  }))
  const encoded = fixedChannel(channel)?.transfer === 'srgb'
  const show = (v: number): string => (encoded ? String(Math.round(v * 255)) : v.toFixed(3))
  const outside = series.map((one) => {
    const own = one.plausible ? [one.plausible] : plausible
    if (own.length === 0) return null
    const inside = one.bins.reduce((sum, ratio, i) => {
      const middle = from + ((i + 0.5) / bins) * (to - from)
      return sum + (own.some((range) => middle >= range.from && middle <= range.to) ? ratio : 0)
    }, 0)
    return 1 - inside
  })
  return (
    <figure>
      <div
        role="img"
        aria-label={`${title}: ${series.map((one) => `${one.word} from ${show(one.min)} to ${show(one.max)}, mean ${show(one.mean)}`).join('; ')}`}
        className="h-36 rounded border border-rule bg-raised"
      >
        <ResponsiveContainer width="100%" height="100%">
          <AreaChart data={data} margin={{ top: 4, right: 6, bottom: 2, left: 6 }} accessibilityLayer={false}>
            <XAxis
              dataKey="at"
              type="number"
              domain={[from, to]}
              height={16}
              ticks={[0, 1, 2, 3, 4].map((n) => from + (n / 4) * (to - from))}
              tickFormatter={(v: number) => (encoded ? show(v) : String(Number(v.toFixed(2))))}
              tick={{ fontSize: 10, fill: 'var(--ink-soft)' }}
              stroke="var(--rule-strong)"
            />
            <YAxis domain={[0, top]} hide />
            {plausible.map(({ word, from, to }) => (
              <ReferenceArea key={word} x1={from} x2={to} fill="#4f8a4c" fillOpacity={0.13} />
            ))}
            {series.map((one, s) => (
              <Area
                key={one.word}
                dataKey={`s${s}`}
                type="stepAfter"
                stroke={COLOURS[s]}
                fill={COLOURS[s]}
                fillOpacity={series.length > 1 ? 0.18 : 0.35}
                strokeWidth={1.5}
                isAnimationActive={false}
              />
            ))}
          </AreaChart>
        </ResponsiveContainer>
      </div>
      <figcaption className="mt-1 text-note text-ink-soft">
        {encoded ? 'The brightest of red, green and blue, as sRGB of 255.' : 'As the files hold it.'}
        {plausible.length > 0 &&
          ` Green: ${plausible.map(({ word }) => word).join('; ')} (common practice, from memory).`}
      </figcaption>
      <table className="mt-1 w-full font-mono text-note">
        <tbody>
          {series.map((one, s) => (
            <tr key={one.word}>
              {series.length > 1 && (
                <th
                  scope="row"
                  className="w-20 border-l-4 pl-1.5 text-left font-normal"
                  style={{ borderColor: COLOURS[s] }}
                >
                  {one.word}
                </th>
              )}
              <MeanMinMax of={one} show={show} />
              {outside[s] !== null && (
                <td>
                  {outside[s]! > 0.01 ? '▲' : '●'} {(100 * outside[s]!).toFixed(1)} %{' '}
                  <span className="text-ink-soft">outside</span>
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </figure>
  )
}
