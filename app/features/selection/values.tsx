import { formatOutput } from '#core/document/address'
import { MeanMinMax } from '../../ui/mean-min-max'
import { Area, AreaChart, ResponsiveContainer, XAxis, YAxis } from 'recharts'
import { allLayers } from '#core/document/document'
import type { Spread } from '#core/preview/histogram'
import { Choice } from '../../ui/choice'
import { useActions, useDocument, useEvaluation, useView } from '../../session/material'
import { faultInWords } from '../../session/words/fault-words'
import { histogramOutput } from '../../session/histogram-output'

/** Plane colours that can be told apart by lightness too; a single plane is drawn in ink. */
const PLANES: Record<string, readonly { word: string; colour: string }[]> = {
  colour: [
    { word: 'red', colour: '#b5483a' },
    { word: 'green', colour: '#4f8a4c' },
    { word: 'blue', colour: '#4a6fb0' },
  ],
  normal: [
    { word: 'x', colour: '#b5483a' },
    { word: 'y', colour: '#4f8a4c' },
    { word: 'z', colour: '#4a6fb0' },
  ],
  vector: [
    { word: 'x', colour: '#b5483a' },
    { word: 'y', colour: '#4f8a4c' },
  ],
}
const GREY = [{ word: '', colour: 'var(--ink-soft)' }]

/** How the values of what is chosen are spread, with mean, least and greatest. */
export function Values() {
  const document = useDocument()
  const nodes = useView((view) => view.selectedNodes)
  const place = useView((view) => view.selection)
  const output = histogramOutput(document, nodes, place)
  const found = useEvaluation((evaluation) =>
    output === null ? undefined : evaluation.histograms[formatOutput(output)],
  )
  const fault = useEvaluation((evaluation) => (output === null ? undefined : evaluation.faults[formatOutput(output)]))
  if (output === null) return null
  const where = document.domain.kind === 'part' ? 'part' : 'tile'
  return (
    <section aria-label="Values" className="border-t border-rule pt-2">
      <div className="flex items-center gap-2">
        <h3 className="flex-1 font-semibold">Values</h3>
        <Within where={where} />
      </div>
      {fault && (
        <p role={fault.missing ? 'alert' : 'status'} className="mt-1">
          {fault.missing ? '■' : '▲'} {faultInWords(document, fault)}
        </p>
      )}
      {fault?.missing ? null : found ? (
        <Found histogram={found} where={where} />
      ) : (
        <div className="mt-1 h-24 animate-pulse rounded bg-ground" />
      )}
    </section>
  )
}

/** Where values are counted: all over the tile or the part, or within the mask of a layer. */
function Within({ where }: { where: string }) {
  const actions = useActions()
  const document = useDocument()
  const within = useView((view) => view.within)
  const masked = [...allLayers(document.layers)].filter(({ mask }) => mask.length > 0)
  if (masked.length === 0) return null
  const known = masked.some(({ id }) => id === within)
  return (
    <Choice
      label="Values within"
      value={known ? within! : ALL}
      options={[
        { value: ALL, word: `all over the ${where}` },
        ...masked.toReversed().map(({ id, name }) => ({ value: id, word: `within ${name}`, group: 'Masks' })),
      ]}
      onChange={(value) => actions.setView({ within: value === ALL ? null : value })}
      className="max-w-48 text-note"
    />
  )
}

/** The choice that is no layer. */
const ALL = ':all'

function Found({ histogram, where }: { histogram: Spread; where: string }) {
  if (histogram.covered === 0) return <p className="mt-1 text-ink-soft">The mask covers nothing.</p>
  return (
    <>
      <Chart histogram={histogram} />
      {histogram.covered < 1 && (
        <p className="text-note text-ink-soft">
          of {(histogram.covered * 100).toFixed(1)} % of the {where}
        </p>
      )}
    </>
  )
}

const shown = (value: number): string => {
  const text = value.toFixed(3)
  return text === '-0.000' ? '0.000' : text
}

function Chart({ histogram }: { histogram: Spread }) {
  const planes = PLANES[histogram.type] ?? GREY
  const bins = histogram.planes[0]!.bins.length
  // A constant would hide everything else; a bar of a tenth of all texels is as high as the chart.
  const top = Math.max(0.02, Math.min(0.1, ...histogram.planes.map((plane) => Math.max(...plane.bins))))
  // A step begins at each bin's start; the last point ends the last bin.
  const data = Array.from({ length: bins + 1 }, (_, i) => ({
    at: histogram.from + (i / bins) * (histogram.to - histogram.from),
    ...Object.fromEntries(
      histogram.planes.map((plane, p) => [`p${p}`, Math.min(top, plane.bins[i] ?? plane.bins[bins - 1]!)]),
    ),
  }))
  const words = histogram.planes.map(
    (plane, p) =>
      `${planes[p]?.word ?? ''} mean ${shown(plane.mean)}, deviation ${shown(plane.deviation)}, least ${shown(plane.min)}, greatest ${shown(plane.max)}`,
  )
  return (
    <>
      <div
        role="img"
        aria-label={`Histogram: ${words.join('; ')}`}
        className="mt-1 h-24 rounded border border-rule bg-raised"
      >
        <ResponsiveContainer width="100%" height="100%">
          <AreaChart data={data} margin={{ top: 4, right: 4, bottom: 0, left: 4 }} accessibilityLayer={false}>
            <XAxis dataKey="at" type="number" domain={[histogram.from, histogram.to]} hide />
            <YAxis domain={[0, top]} hide />
            {histogram.planes.map((_, p) => (
              <Area
                key={p}
                dataKey={`p${p}`}
                type="stepAfter"
                stroke={planes[p]!.colour}
                fill={planes[p]!.colour}
                fillOpacity={histogram.planes.length > 1 ? 0.12 : 0.35}
                strokeWidth={1}
                isAnimationActive={false}
              />
            ))}
          </AreaChart>
        </ResponsiveContainer>
      </div>
      <table className="mt-1 w-full font-mono text-note">
        <tbody>
          {histogram.planes.map((plane, p) => (
            <tr key={p}>
              {planes[p]!.word !== '' && (
                <th scope="row" className="w-12 text-left font-normal" style={{ color: planes[p]!.colour }}>
                  <span className="text-ink">{planes[p]!.word}</span>
                </th>
              )}
              <MeanMinMax of={plane} show={shown} />
            </tr>
          ))}
        </tbody>
      </table>
    </>
  )
}
