import { Download } from 'lucide-react'
import { Link } from 'react-router'
import { fixedChannel } from '#core/document/channels'
import type { Delivery } from '../../contracts/delivery'
import type { MapSet } from '../../contracts/map-set'
import type { Run } from '../../contracts/run'
import { RunRows } from '../../session/runs/run-rows'
import { buttonClasses } from '../../ui/button'
import { agoInWords, bytesInWords } from '../../ui/words'
import { isStale } from './set-list'

/** What came of a set: its files, and what the check says of them. */
export function ConvertedMaps({
  set,
  runs,
  deliveries,
  now,
}: {
  set: MapSet
  /** Under way, or broken off. */
  runs: readonly Run[]
  /** The newest, with those that were asked for together with it. */
  deliveries: readonly Delivery[]
  now: number
}) {
  const isUnderWay = runs.some(({ state }) => state === 'queued' || state === 'running')
  return (
    <>
      {runs.length > 0 && (
        <section aria-label="Under way" className="mt-4">
          <RunRows runs={runs} now={now} />
        </section>
      )}
      {!isUnderWay &&
        deliveries.map((delivery) => (
          <section key={delivery.id} aria-label="Converted maps" className="mt-5">
            <div className="flex items-center gap-3">
              <h2 className="text-head font-semibold">{delivery.packing}</h2>
              <span className="text-ink-soft">
                {delivery.width} × {delivery.height}, {bytesInWords(delivery.bytes)}, made{' '}
                {agoInWords(delivery.createdAt, now)}
              </span>
              {isStale(set, delivery) && <span>▲ The set was changed since: convert it again.</span>}
              <span className="flex-1" />
              <Link to={`/documents/${delivery.documentId}/maps`} className={buttonClasses()}>
                Look at the maps
              </Link>
              <a href={`/deliveries/${delivery.id}/maps.zip`} download className={buttonClasses()}>
                <Download size={14} aria-hidden /> Download
              </a>
            </div>
            <ul
              aria-label="Files that were made"
              className={`mt-2 grid grid-cols-[repeat(auto-fill,minmax(10rem,1fr))] gap-3 ${isStale(set, delivery) ? 'opacity-60' : ''}`}
            >
              {delivery.forms.map(({ name, map, slots }, i) => (
                <li key={name} className="min-w-0 rounded border border-rule bg-panel p-2">
                  <a href={`/deliveries/${delivery.id}/files/${i}`} download className="hover:underline">
                    <img
                      src={`/deliveries/${delivery.id}/files/${i}/thumbnail.png`}
                      alt=""
                      className="h-24 w-full bg-view object-contain"
                    />
                    <span className="mt-1 block truncate" title={name}>
                      {map}
                    </span>
                  </a>
                  <span className="block truncate text-note text-ink-soft" title={slotsInWords(slots)}>
                    {slotsInWords(slots)}
                  </span>
                </li>
              ))}
            </ul>
            <Findings delivery={delivery} />
          </section>
        ))}
    </>
  )
}

/** What a file's slots hold, each once. */
const slotsInWords = (slots: Delivery['forms'][number]['slots']): string =>
  [
    ...new Set(
      slots.map(({ channel, inverted }) =>
        channel === null
          ? 'constant'
          : `${fixedChannel(channel)?.title ?? channel}${inverted && channel !== 'normal' ? ' inverted' : ''}`,
      ),
    ),
  ].join(', ')

function Findings({ delivery: { findings } }: { delivery: Delivery }) {
  if (findings === null)
    return (
      <p className="mt-3 text-ink-soft">Too large to be checked here. “Look at the maps” checks a preview of it.</p>
    )
  if (findings.length === 0) return <p className="mt-3">● The check found nothing.</p>
  return (
    <ul aria-label="Findings" className="mt-3 divide-y divide-rule rounded border border-rule bg-panel">
      {findings.map(({ severity, channel, file, message, fix }, i) => (
        <li key={i} className="grid grid-cols-[1.25rem_1fr] px-3 py-1.5">
          <span aria-label={severity}>{severity === 'error' ? '■' : '▲'}</span>
          <span>
            <span className="text-ink-soft">
              {(channel === undefined ? file : (fixedChannel(channel)?.title ?? channel)) ?? 'The set'}{' '}
            </span>
            {message}
            <span className="block text-note text-ink-soft">{fix}</span>
          </span>
        </li>
      ))}
    </ul>
  )
}
