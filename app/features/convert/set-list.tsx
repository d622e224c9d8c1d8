import type { Delivery } from '../../contracts/delivery'
import type { MapSet } from '../../contracts/map-set'
import type { Run } from '../../contracts/run'
import { counted, progressInWords } from '../../ui/words'

interface SetListProps {
  readonly sets: readonly MapSet[]
  readonly shown: string | undefined
  runOf(set: MapSet): Run | undefined
  deliveryOf(set: MapSet): Delivery | undefined
  onChoose(id: string): void
}

/** Sets, each with a picture, and how far it is. */
export function SetList({ sets, shown, runOf, deliveryOf, onChoose }: SetListProps) {
  return (
    <ul aria-label="Sets of maps" className="min-h-0 flex-1 overflow-auto border-t border-rule">
      {sets.map((set) => {
        const first = set.files.find(({ slots }) => slots[0]?.channel === 'colour') ?? set.files[0]!
        return (
          <li key={set.id} className="border-b border-rule">
            <button
              type="button"
              aria-current={set.id === shown}
              onClick={() => onChoose(set.id)}
              className="flex w-full gap-3 border-l-2 border-transparent px-3 py-2 text-left hover:bg-ground aria-[current=true]:border-accent aria-[current=true]:bg-ground"
            >
              <img
                src={`/assets/${first.sha256}/thumbnail.png`}
                alt=""
                className="size-10 shrink-0 rounded bg-view object-cover"
              />
              <span className="min-w-0">
                <span className="block truncate font-semibold">{set.name}</span>
                <span className="block truncate text-ink-soft">{howFar(set, runOf(set), deliveryOf(set))}</span>
              </span>
            </button>
          </li>
        )
      })}
    </ul>
  )
}

/** How far a set is, in words. */
function howFar(set: MapSet, run: Run | undefined, delivery: Delivery | undefined): string {
  if (run?.state === 'queued') return '◌ waits'
  if (run?.state === 'running') return `◌ ${progressInWords(run.progress)}`
  if (run?.state === 'failed') return '■ failed'
  if (!delivery) return counted(set.files.length, 'file')
  if (isStale(set, delivery)) return '▲ changed since'
  const found = delivery.findings?.length ?? 0
  return found === 0 ? '● converted' : `▲ ${counted(found, 'finding')}`
}

/** Whether something else was said of a set after its maps were made. */
export const isStale = (set: MapSet, delivery: Delivery): boolean => delivery.createdAt < set.changedAt
