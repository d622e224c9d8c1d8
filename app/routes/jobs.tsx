import { z } from 'zod'
import { RunRows } from '../features/jobs/run-rows'
import { useNow, useRuns } from '../features/jobs/use-runs'
import { readForm } from '../server/body.server'
import { answering, checked, idFrom } from '../server/problem.server'
import { cancelRun, listRuns, retryRun } from '../server/runs.server'
import { TopBar } from '../ui/top-bar'
import type { Route } from './+types/jobs'

export const meta: Route.MetaFunction = () => [{ title: 'Jobs · Amber Grist' }]

export const loader = () => answering(async () => ({ runs: await listRuns(), now: Date.now() }))

const request = z.object({ intent: z.enum(['cancel', 'retry']), id: z.string() })

export const action = ({ request: http }: Route.ActionArgs) =>
  answering(async () => {
    const { intent, id } = checked(request, await readForm(http))
    await (intent === 'cancel' ? cancelRun : retryRun)(idFrom(id))
    return {}
  })

export default function Jobs({ loaderData }: Route.ComponentProps) {
  const runs = useRuns(loaderData.runs, 'runs')
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
        </div>
      </main>
    </div>
  )
}
