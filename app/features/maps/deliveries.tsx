import type { Delivery } from '../../contracts/delivery'
import { useActions } from '../../session/material'
import { RunRows } from '../../session/runs/run-rows'
import { useDelivering } from './deliveries-context'
import { DeliveryTable } from '../../session/runs/delivery-table'
import { useMaps } from './maps'
import { useLookAt } from './stage-strip'

/** Bakes under way, and what was delivered of this material. */
export function Deliveries() {
  const { view } = useMaps()
  const actions = useActions()
  const { deliveries, runs, now, send } = useDelivering()
  const lookAt = useLookAt()
  const busy = runs.filter(({ state }) => state === 'running' || state === 'queued')
  const finished = runs.filter((run) => !busy.includes(run) && (run.state !== 'done' || run.result)).slice(0, 2)
  const compare = (delivery: Delivery): void => {
    // With the one before it, or the first with the one after it.
    const at = deliveries.indexOf(delivery)
    const other = deliveries[at + 1] ?? deliveries[at - 1]
    if (!other) return actions.notify('There is only one delivery. Make another to compare it with.')
    const pair = [delivery, other].sort((a, b) => (a.createdAt < b.createdAt ? -1 : 1))
    view.setState({ comparing: [pair[0]!.id, pair[1]!.id] })
  }
  return (
    <section
      aria-label="Deliveries"
      className="flex h-full min-h-0 flex-col gap-2 overflow-auto bg-panel p-3"
      data-guide="deliveries"
    >
      <h2 className="font-semibold">Deliveries</h2>
      {(busy.length > 0 || finished.length > 0) && <RunRows runs={[...busy, ...finished]} now={now} />}
      {deliveries.length === 0 ? (
        <p className="text-ink-soft">None yet. Press Make to bake the files and pack them into a ZIP.</p>
      ) : (
        <DeliveryTable
          ofOne
          deliveries={deliveries}
          now={now}
          onAgain={(delivery) => send({ intent: 'make-again', delivery })}
          onLook={lookAt}
          onCompare={compare}
        />
      )}
    </section>
  )
}
