import { RotateCcw, X } from 'lucide-react'
import { Progress } from 'radix-ui'
import { useState } from 'react'
import { Link, useFetcher } from 'react-router'
import type { BakeRun, MeshRun, Run } from '../../contracts/run'
import { Button } from '../../ui/button'
import { RunMark } from './run-state'
import { agoInWords, counted, progressInWords, secondsInWords } from '../../ui/words'
import { secondsLeft } from './use-runs'

/** Bakes, newest first: what, how far, how long yet, and what can be done about them. */
export function RunRows({ runs, now }: { runs: readonly Run[]; now: number }) {
  if (runs.length === 0)
    return <p className="text-ink-soft">No bakes yet. “Make” on a material’s Maps screen begins one.</p>
  return (
    <ul className="divide-y divide-rule rounded-lg border border-rule bg-panel">
      {runs.map((run) => (
        <RunRow key={run.id} run={run} now={now} />
      ))}
    </ul>
  )
}

const isSharpened = (of: BakeRun['request']['sharpen']): boolean =>
  typeof of === 'number' ? of > 0 : Object.values(of).some((amount) => amount > 0)

/** What a bake of maps is of. */
function bakeInWords({ request, revision }: BakeRun): string {
  const { packing, width, dither, sharpen, names, compareWith } = request
  return [
    ...(compareWith ? ['made again'] : []),
    ...(names.delivery ? [`#${names.delivery}`] : []),
    packing.title,
    `${width} wide`,
    ...(dither ? ['dithered'] : []),
    ...(isSharpened(sharpen) ? ['sharpened'] : []),
    `revision ${revision}`,
  ].join(', ')
}

const CURES = { unwrap: 'unwrapped by angle', repack: 'islands repacked', shift: 'overlapping islands moved by a tile' }

/** What is done with a model. */
function meshWorkInWords({ request }: MeshRun): string {
  if (request.do === 'lay out') return CURES[request.change.cure]
  if (request.do === 'deliver') return `all parts and the model, ${request.packing.title}, ${request.width} wide`
  const { size, samples, rays } = request.settings
  return `mesh data, ${counted(request.cells.length, 'cell')}, ${size} wide, ${counted(samples, 'sample')}, ${counted(rays, 'ray')}`
}

function RunRow({ run, now }: { run: Run; now: number }) {
  const fetcher = useFetcher()
  const [open, setOpen] = useState(false)
  const left = secondsLeft(run, now)
  const send = (intent: string) => void fetcher.submit({ intent, id: run.id }, { method: 'post', action: '/jobs' })
  const percent = Math.round(run.progress * 100)
  return (
    <li className="px-4 py-3">
      <div className="grid grid-cols-[6rem_1fr_auto] items-center gap-x-4 gap-y-1">
        <RunMark state={run.state} />
        <span className="min-w-0 truncate">
          <Link
            to={run.kind === 'mesh' ? `/models/${run.modelId}` : `/documents/${run.documentId}`}
            className="font-semibold hover:underline"
          >
            {run.subject}
          </Link>{' '}
          <span className="text-ink-soft">
            in{' '}
            <Link to={`/projects/${run.projectId}`} className="hover:underline">
              {run.project}
            </Link>
            , {run.kind === 'mesh' ? meshWorkInWords(run) : bakeInWords(run)}
          </span>
        </span>
        <span className="flex gap-1">
          {(run.state === 'queued' || run.state === 'running') && (
            <Button onClick={() => send('cancel')} aria-label={`Cancel ${run.subject}`}>
              <X size={14} aria-hidden /> Cancel
            </Button>
          )}
          {(run.state === 'failed' || run.state === 'cancelled') && (
            <Button onClick={() => send('retry')} aria-label={`Try ${run.subject} again`}>
              <RotateCcw size={14} aria-hidden /> Try again
            </Button>
          )}
          <Button variant="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? 'Close the log' : 'Log'}
          </Button>
        </span>
        {run.state === 'running' && (
          <div className="col-span-2 col-start-2 flex items-center gap-3">
            <Progress.Root
              value={percent}
              aria-label={`${run.subject}: progress`}
              className="h-1.5 max-w-md flex-1 overflow-hidden rounded-full bg-rule"
            >
              <Progress.Indicator className="h-full bg-ink" style={{ width: `${percent}%` }} />
            </Progress.Root>
            <span className="font-mono">
              {progressInWords(run.progress)}
              {left === null ? '' : `, ${secondsInWords(left)} left`}
            </span>
          </div>
        )}
        <span className="col-span-2 col-start-2 text-ink-soft">
          {run.error && <span className="text-ink">{run.error} </span>}
          {run.result && <span className="text-ink">{run.result} </span>}
          {run.endedAt && run.startedAt
            ? `took ${secondsInWords((Date.parse(run.endedAt) - Date.parse(run.startedAt)) / 1000)}, ended ${agoInWords(run.endedAt, now)}`
            : `queued ${agoInWords(run.createdAt, now)}`}
        </span>
      </div>
      {open && (
        <ol className="mt-2 ml-28 rounded bg-ground p-2 font-mono text-note">
          {run.log.length === 0 && <li>Nothing yet.</li>}
          {run.log.map(({ at, text }, i) => (
            <li key={i}>
              {at.slice(11, 19)} {text}
            </li>
          ))}
        </ol>
      )}
    </li>
  )
}
