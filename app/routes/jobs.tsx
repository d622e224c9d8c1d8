import { Link } from 'react-router'
import { z } from 'zod'
import { RunRows } from '../session/runs/run-rows'
import { useNow, useRuns } from '../session/runs/use-runs'
import { readForm } from '../server/http/body.server'
import { answering, checked, idFrom } from '../server/http/problem.server'
import { RUNS_PAGE, cancelRun, listRuns, retryRun } from '../server/runs/runs.server'
import { TopBar } from '../ui/top-bar'
import type { Route } from './+types/jobs'

export const meta: Route.MetaFunction = () => [{ title: 'Jobs · Amber Grist' }]

const moment = z.iso.datetime({ offset: true })

/** Bakes, newest first; ?before=… are those asked for before a moment. */
export const loader = ({ request: http }: Route.LoaderArgs) =>
  answering(async () => {
    const given = new URL(http.url).searchParams.get('before')
    const before = given === null ? undefined : checked(moment, given)
    const runs = await listRuns({ before })
    return { runs, before: before ?? null, hasMore: runs.length === RUNS_PAGE, now: Date.now() }
  })

const request = z.object({ intent: z.enum(['cancel', 'retry']), id: z.string() })

export const action = ({ request: http }: Route.ActionArgs) =>
  answering(async () => {
    const { intent, id } = checked(request, await readForm(http))
    await (intent === 'cancel' ? cancelRun : retryRun)(idFrom(id))
    return {}
  })

export default function Jobs({ loaderData }: Route.ComponentProps) {
  const { before, hasMore } = loaderData
  const runs = useRuns(loaderData.runs, 'runs').filter(({ createdAt }) => before === null || createdAt < before)
  const oldest = loaderData.runs.at(-1)?.createdAt
  const busy = runs.filter(({ state }) => state === 'running' || state === 'queued')
  const past = runs.filter((run) => !busy.includes(run))
  const now = useNow(loaderData.now, busy.length > 0)
  return (
    <div className="flex h-screen flex-col">
      <TopBar place={[{ name: 'Projects', to: '/' }, { name: 'Jobs' }]} />
      <main className="min-h-0 flex-1 overflow-auto">
        <div className="mx-auto max-w-[84rem] p-6">
          <h1 className="text-lg font-semibold">Jobs</h1>
          {busy.length > 0 && (
            <section aria-label="Under way" className="mt-4">
              <h2 className="mb-2 text-ink-soft">Under way</h2>
              <RunRows runs={busy} now={now} />
            </section>
          )}
          <section aria-label="Past" className="mt-6">
            <h2 className="mb-2 text-ink-soft">Past</h2>
            <RunRows runs={past} now={now} />
          </section>
          <nav aria-label="Pages" className="mt-4 flex gap-4">
            {before !== null && (
              <Link to="/jobs" className="text-accent-ink underline">
                Newest bakes
              </Link>
            )}
            {hasMore && oldest && (
              <Link to={`/jobs?before=${encodeURIComponent(oldest)}`} className="text-accent-ink underline">
                Older bakes
              </Link>
            )}
          </nav>
        </div>
      </main>
    </div>
  )
}
