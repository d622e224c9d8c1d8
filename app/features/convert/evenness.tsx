import { useState } from 'react'
import { fixedChannel } from '#core/document/channels'
import type { MapSet, SetRegions } from '../../contracts/map-set'
import { ask } from '../../session/ask'
import { Choice } from '../../ui/choice'

/** A deviation above which a surface of one kind looks patchy. Own choice. */
const UNEVEN = 0.12

/** How even the greys of a set are, region by region of an image of IDs or of a mask in it. */
export function Evenness({ project, set }: { project: string; set: MapSet }) {
  const [by, setBy] = useState('')
  const [found, setFound] = useState<SetRegions | string | null>(null)
  const look = async (index: string): Promise<void> => {
    setBy(index)
    setFound(null)
    if (index === '') return
    try {
      const answer = await ask(`/projects/${project}/convert/${set.id}/regions?by=${index}`, {})
      const told = (await answer.json()) as SetRegions | { error: string }
      setFound('error' in told ? told.error : told)
    } catch {
      setFound('The server cannot be reached right now.')
    }
  }
  if (set.files.length < 2) return null
  return (
    <section aria-label="Evenness" className="mt-5">
      <label className="flex items-center gap-2">
        <span className="text-head font-semibold">Evenness</span>
        <span className="text-ink-soft">within the regions of</span>
        <Choice
          label="Regions"
          value={by}
          options={[
            { value: '', word: 'choose IDs or a mask …' },
            ...set.files.map(({ name }, i) => ({ value: String(i), word: name })),
          ]}
          onChange={(index) => void look(index)}
        />
      </label>
      {typeof found === 'string' && (
        <p role="alert" className="mt-2">
          ■ {found}
        </p>
      )}
      {found && typeof found !== 'string' && <Regions found={found} />}
    </section>
  )
}

function Regions({ found: { channels, regions } }: { found: SetRegions }) {
  if (regions.length === 0) return <p className="mt-2">▲ It has no regions: no colour covers half a per cent of it.</p>
  return (
    <table
      aria-label="Regions"
      className="mt-2 border-separate border-spacing-0 rounded-lg border border-rule bg-panel text-left"
    >
      <thead className="text-ink-soft">
        <tr>
          {['Region', 'Area', ...channels.map((channel) => fixedChannel(channel)?.title ?? channel)].map((head) => (
            <th key={head} scope="col" className="px-3 py-1.5 font-normal">
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {regions.map(({ colour, ratio, spreads }) => (
          <tr key={colour} className="*:border-t *:border-rule *:px-3 *:py-1">
            <td>
              <span className="flex items-center gap-2 font-mono">
                <span className="size-4 rounded-sm border border-rule" style={{ background: colour }} aria-hidden />
                {colour}
              </span>
            </td>
            <td className="font-mono">{(ratio * 100).toFixed(1)} %</td>
            {spreads.map(({ mean, deviation }, i) => (
              <td key={channels[i]} className="font-mono" title="Mean and standard deviation, 0 to 255">
                {Math.round(mean * 255)} ± {Math.round(deviation * 255)}
                {deviation > UNEVEN && <span aria-label="uneven"> ▲</span>}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}
