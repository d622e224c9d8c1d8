import { Download, Eye, FileJson, GitCompareArrows, Repeat2 } from 'lucide-react'
import type { Delivery } from '../../contracts/delivery'
import { Button, buttonClasses } from '../../ui/button'
import { agoInWords, bytesInWords, counted } from '../../ui/words'

/** What the maps took together, and how many were kept; each on pointing. */
function Times({ times }: { times: Delivery['times'] }) {
  if (times.length === 0) return null
  const kept = times.filter((time) => time.kept).length
  const each = times.map(({ map, seconds, kept: was }) => `${map}: ${was ? 'kept as it was' : inSeconds(seconds)}`)
  return (
    <span className="block text-note text-ink-soft" title={each.join('\n')}>
      {inSeconds(times.reduce((sum, { seconds }) => sum + seconds, 0))}
      {kept > 0 && `, ${kept} kept`}
    </span>
  )
}

const inSeconds = (seconds: number): string => `${seconds < 10 ? seconds.toFixed(1) : Math.round(seconds)} s`

/** Deliveries, newest first: what was made of what, and what can be done with it. */
export function DeliveryTable({
  deliveries,
  now,
  ofOne = false,
  onAgain,
  onLook,
  onCompare,
}: {
  deliveries: readonly Delivery[]
  now: number
  /** All are of one material, which need not be named. */
  ofOne?: boolean
  onAgain(id: string): void
  onLook?(id: string): void
  onCompare?(delivery: Delivery): void
}) {
  const heads = [...(ofOne ? ['No.'] : ['Material']), 'Packing', 'Size', 'Made', '']
  return (
    <div className="@container">
      <table className="w-full border-separate border-spacing-0 rounded-lg border border-rule bg-panel text-left">
        <thead className="text-ink-soft">
          <tr>
            {heads.map((head) => (
              <th key={head} scope="col" className="px-3 py-1.5 font-normal">
                {head || <span className="sr-only">What to do</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {deliveries.map((delivery) => (
            <tr key={delivery.id} className="*:border-t *:border-rule *:px-3 *:py-1.5">
              <td className="whitespace-nowrap">
                {ofOne ? '' : `${delivery.document} `}
                {delivery.number !== null && <span className={ofOne ? 'font-semibold' : ''}>#{delivery.number} </span>}
                <span className="text-ink-soft">r{delivery.revision}</span>
              </td>
              <td>{delivery.packing}</td>
              <td className="whitespace-nowrap">
                <span className="font-mono">
                  {delivery.width} × {delivery.height}
                </span>
                <span className="block text-note text-ink-soft">
                  {counted(delivery.files, 'file')}, {bytesInWords(delivery.bytes)}
                </span>
                <Times times={delivery.times} />
              </td>
              <td className="whitespace-nowrap">{agoInWords(delivery.createdAt, now)}</td>
              <td className="text-right whitespace-nowrap">
                <a
                  href={`/deliveries/${delivery.id}/maps.zip`}
                  download
                  className={`${buttonClasses()} py-0.5`}
                  aria-label={`Download ${delivery.name}`}
                >
                  <Download size={14} aria-hidden /> <span className="@max-3xl:sr-only">Download</span>
                </a>
                {onLook && (
                  <Button
                    variant="quiet"
                    className="px-1.5"
                    onClick={() => onLook(delivery.id)}
                    aria-label={`Look at ${delivery.name}`}
                    title="Look at its files on the stage, beside the source"
                  >
                    <Eye size={14} aria-hidden />
                  </Button>
                )}
                {onCompare && (
                  <Button
                    variant="quiet"
                    className="px-1.5"
                    onClick={() => onCompare(delivery)}
                    aria-label={`Compare ${delivery.name}`}
                    title="Compare it with another delivery, map by map"
                  >
                    <GitCompareArrows size={14} aria-hidden />
                  </Button>
                )}
                <Button
                  variant="quiet"
                  className="px-1.5"
                  onClick={() => onAgain(delivery.id)}
                  aria-label={`Make ${delivery.name} again`}
                  title="Make again: bakes the same revision once more and compares every file, texel for texel"
                >
                  <Repeat2 size={14} aria-hidden />
                </Button>
                <a
                  href={`/deliveries/${delivery.id}/record.json`}
                  className={`${buttonClasses('quiet')} px-1.5`}
                  aria-label={`Record of ${delivery.name}`}
                  title="The record: how it was made, and every file’s hash"
                >
                  <FileJson size={14} aria-hidden />
                </a>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
