import { Dialog } from 'radix-ui'
import { useEffect, useState } from 'react'
import { ask } from '../../session/ask'
import type { ComparedMap } from '../../contracts/compared-map'
import { Button } from '../../ui/button'
import { Choice, Segments } from '../../ui/choice'
import type { Delivery } from '../../contracts/delivery'
import { useDelivering } from './deliveries-context'
import { useMaps, useMapsView } from './maps'

const GAINS = ['1', '4', '16', '64', '256']

/** What the server found of one map of two deliveries. */
interface Figures {
  readonly largest: number
  readonly rms: number
  readonly ratio: number
  readonly at: readonly [number, number]
  readonly width: number
  readonly height: number
  readonly picture: string
}

/** Two deliveries map by map, with the difference amplified. */
export function CompareDialog() {
  const { view } = useMaps()
  const comparing = useMapsView((one) => one.comparing)
  return (
    <Dialog.Root open={comparing !== null} onOpenChange={(open) => !open && view.setState({ comparing: null })}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed inset-x-[4vw] inset-y-[5vh] z-50 flex flex-col overflow-hidden rounded-lg border border-rule-strong bg-panel shadow-xl"
        >
          {comparing && <Comparison before={comparing[0]} after={comparing[1]} />}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}

function Comparison({ before, after }: { before: string; after: string }) {
  const { view } = useMaps()
  const { deliveries } = useDelivering()
  const [gain, setGain] = useState('64')
  const [found, setFound] = useState<{ key: string; maps: readonly ComparedMap[] | string } | null>(null)
  const [map, setMap] = useState<string | null>(null)
  const key = `${after} ${before}`
  useEffect(() => {
    let wanted = true
    void answer<ComparedMap[]>(`/deliveries/${after}/against/${before}`).then(
      (maps) => wanted && setFound({ key, maps }),
    )
    return () => {
      wanted = false
    }
  }, [key, after, before])
  const maps = found?.key === key && typeof found.maps !== 'string' ? found.maps : []
  const selected = maps.find((one) => one.map === map) ?? maps.find((one) => !one.same) ?? maps[0]
  const options = deliveries.map((one) => ({ value: one.id, word: deliveryWord(one) }))
  return (
    <>
      <header className="flex flex-wrap items-center gap-2 border-b border-rule px-4 py-2">
        <Dialog.Title className="font-semibold">Compare deliveries</Dialog.Title>
        <Choice
          className="max-w-64"
          label="Before"
          value={before}
          options={options}
          onChange={(id) => view.setState({ comparing: [id, after] })}
        />
        <span className="text-ink-soft">and</span>
        <Choice
          className="max-w-64"
          label="After"
          value={after}
          options={options}
          onChange={(id) => view.setState({ comparing: [before, id] })}
        />
        <span className="flex-1" />
        <span className="text-ink-soft">Difference</span>
        <Segments
          label="Difference amplified"
          value={gain}
          options={GAINS.map((value) => ({ value, word: `× ${value}` }))}
          onChange={setGain}
        />
        <Button onClick={() => view.setState({ comparing: null })}>Close</Button>
      </header>
      <div className="grid min-h-0 flex-1 grid-cols-[15rem_1fr] grid-rows-[minmax(0,1fr)]">
        <ul aria-label="Maps" className="overflow-auto border-r border-rule p-2">
          {typeof found?.maps === 'string' && <li role="alert">■ {found.maps}</li>}
          {!found && <li role="status">◌ Comparing …</li>}
          {maps.map((one) => (
            <li key={one.map}>
              <button
                type="button"
                aria-pressed={one.map === selected?.map}
                onClick={() => setMap(one.map)}
                className="flex w-full justify-between gap-2 rounded px-2 py-1 text-left hover:bg-ground aria-pressed:bg-ink aria-pressed:text-ground"
              >
                <span className="truncate">{one.map}</span>
                <span className="shrink-0">
                  {one.same ? '● same' : one.before && one.after ? '▲ differs' : '– one only'}
                </span>
              </button>
            </li>
          ))}
        </ul>
        {selected && (
          <OneMap key={`${key} ${selected.map}`} before={before} after={after} found={selected} gain={gain} />
        )}
      </div>
    </>
  )
}

const deliveryWord = ({ number, width, revision, packing }: Delivery): string =>
  `${number === null ? 'delivery' : `#${number}`}, ${width}, revision ${revision}, ${packing}`

function OneMap({ before, after, found, gain }: { before: string; after: string; found: ComparedMap; gain: string }) {
  const [figures, setFigures] = useState<{ gain: string; figures: Figures | string } | null>(null)
  const both = found.before !== null && found.after !== null
  useEffect(() => {
    if (!both || found.same) return
    let wanted = true
    void answer<Figures>(
      `/deliveries/${after}/against/${before}?map=${encodeURIComponent(found.map)}&gain=${gain}`,
    ).then((got) => wanted && setFigures({ gain, figures: got }))
    return () => {
      wanted = false
    }
  }, [both, found, before, after, gain])
  if (!both) return <p className="m-4">Only {found.before ? 'the earlier' : 'the later'} delivery has this map.</p>
  if (found.same) return <p className="m-4">● Both files hold the same, texel for texel.</p>
  if (figures && typeof figures.figures === 'string')
    return (
      <p role="alert" className="m-4">
        ■ {figures.figures}
      </p>
    )
  const got = figures?.figures as Figures | undefined
  return (
    <div className="flex min-h-0 flex-col gap-2 p-3">
      {got ? (
        <>
          <p role="status" aria-label="Difference" className="font-mono text-[11px]">
            largest {shown(got.largest)}, root mean square {shown(got.rms)}, {(100 * got.ratio).toFixed(1)} % of the
            texels differ, most at u {got.at[0].toFixed(3)} v {got.at[1].toFixed(3)}; {got.width} × {got.height}
          </p>
          <div className="grid min-h-0 flex-1 grid-rows-[minmax(0,1fr)] place-items-center bg-view">
            <img
              src={got.picture}
              alt={`Difference of ${found.map}, ${gain} times: grey where nothing changed, brighter where the later one is greater`}
              className={`max-h-full max-w-full object-contain ${figures?.gain === gain ? '' : 'opacity-60'}`}
            />
          </div>
          <p className="text-[11px] text-ink-soft">
            Mid-grey: nothing changed. Brighter: the later is greater; darker: it is less. {gain} times as much as it
            is.
          </p>
        </>
      ) : (
        <p role="status">◌ Comparing …</p>
      )}
    </div>
  )
}

const shown = (v: number): string => (v * 255 >= 0.1 ? `${(v * 255).toFixed(1)}/255` : v.toExponential(1))

/** Two large maps are decoded and compared; milliseconds. */
const COMPARE = 180_000

/** JSON from the server, or why there is none. */
async function answer<T>(address: string): Promise<T | string> {
  try {
    const response = await ask(address, {}, COMPARE)
    const json = (await response.json()) as T & { error?: string }
    return response.ok ? json : (json.error ?? `The server answered ${response.status}.`)
  } catch {
    return 'Cannot reach the server.'
  }
}
