import { Dialog } from 'radix-ui'
import { useEffect, useState } from 'react'
import { ask } from '../../session/ask'
import type { ComparedMap, ComparedPictures } from '../../contracts/compared-map'
import { GAINS } from '#core/texture/compare'
import { Button } from '../../ui/button'
import { Choice, Segments } from '../../ui/choice'
import type { Delivery } from '../../contracts/delivery'
import { useDelivering } from './deliveries-context'
import { lossInWords } from './slot-words'
import { useMaps, useMapsView } from './maps'

/** How a map is looked at. */
const LOOKS = [
  { value: 'difference', word: 'Difference' },
  { value: 'before', word: 'Before' },
  { value: 'after', word: 'After' },
  { value: 'wiper', word: 'Wiper' },
] as const
type Look = (typeof LOOKS)[number]['value']

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
  /** Null is what fits. */
  const [gain, setGain] = useState<string | null>(null)
  const [look, setLook] = useState<Look>('difference')
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
        <Segments<Look> label="What is shown" value={look} options={LOOKS} onChange={setLook} />
        <Segments
          label="Difference amplified"
          value={gain ?? 'fits'}
          options={[{ value: 'fits', word: 'fits' }, ...GAINS.map((one) => ({ value: String(one), word: `× ${one}` }))]}
          onChange={(next) => {
            setGain(next === 'fits' ? null : next)
            setLook('difference')
          }}
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
          <OneMap
            key={`${key} ${selected.map}`}
            before={before}
            after={after}
            found={selected}
            gain={gain}
            look={look}
          />
        )}
      </div>
    </>
  )
}

const deliveryWord = ({ number, width, revision }: Delivery): string =>
  `${number === null ? 'delivery' : `#${number}`}, ${width}, revision ${revision}`

function OneMap({
  before,
  after,
  found,
  gain,
  look,
}: {
  before: string
  after: string
  found: ComparedMap
  gain: string | null
  look: Look
}) {
  const [answered, setAnswered] = useState<{ gain: string | null; figures: ComparedPictures | string } | null>(null)
  const both = found.before !== null && found.after !== null
  useEffect(() => {
    if (!both) return
    let wanted = true
    const amplified = gain === null ? '' : `&gain=${gain}`
    void answer<ComparedPictures>(
      `/deliveries/${after}/against/${before}?map=${encodeURIComponent(found.map)}${amplified}`,
    ).then((figures) => wanted && setAnswered({ gain, figures }))
    return () => {
      wanted = false
    }
  }, [both, found, before, after, gain])
  if (!both) return <p className="m-4">Only {found.before ? 'the earlier' : 'the later'} delivery has this map.</p>
  if (answered && typeof answered.figures === 'string')
    return (
      <p role="alert" className="m-4">
        ■ {answered.figures}
      </p>
    )
  const got = answered?.figures as ComparedPictures | undefined
  if (!got)
    return (
      <p role="status" className="m-4">
        ◌ Comparing …
      </p>
    )
  return (
    <div className="flex min-h-0 flex-col gap-2 p-3">
      <p role="status" aria-label="Difference" className="font-mono text-note">
        {found.same || got.largest === 0
          ? `● The same, texel for texel, in what both have; ${got.width} × ${got.height}`
          : `largest ${shown(got.largest)}, root mean square ${shown(got.rms)} (${lossInWords(got)}), ${(100 * got.ratio).toFixed(1)} % of the texels differ, most at u ${got.at[0].toFixed(3)} v ${got.at[1].toFixed(3)}; ${got.width} × ${got.height}`}
      </p>
      {alsoInWords(got).map((words) => (
        <p key={words} className="text-note">
          ▲ {words}
        </p>
      ))}
      <Pictures map={found.map} got={got} look={look} faint={answered?.gain !== gain} />
      {look === 'difference' && (
        <p className="text-note text-ink-soft">
          Mid-grey: nothing changed. Brighter: the later is greater; darker: it is less. {got.gain} times as much as it
          is{got.ofAlpha ? ', of alpha, as the colours are the same' : ''}.
        </p>
      )}
    </div>
  )
}

/** What else differs than values. */
function alsoInWords({ added, removed, sizes, width, height }: ComparedPictures): string[] {
  const [before, after] = sizes
  return [
    added.length > 0 ? `Only the later file has ${added.join(', ')}; what both have is compared.` : null,
    removed.length > 0 ? `Only the earlier file has ${removed.join(', ')}; what both have is compared.` : null,
    String(before) === String(after)
      ? null
      : `${before!.join(' × ')} before, ${after!.join(' × ')} after: compared at ${width} × ${height}.`,
  ].filter((words) => words !== null)
}

const PICTURE = 'col-start-1 row-start-1 max-h-full max-w-full object-contain'

/** One of the pictures, or both with a seam that is moved. */
function Pictures({ map, got, look, faint }: { map: string; got: ComparedPictures; look: Look; faint: boolean }) {
  const [seam, setSeam] = useState(50)
  if (look !== 'wiper')
    return (
      <div className="grid min-h-0 flex-1 grid-rows-[minmax(0,1fr)] place-items-center bg-view">
        <img
          src={got.pictures[look]}
          alt={
            look === 'difference'
              ? `Difference of ${map}, ${got.gain} times: grey where nothing changed, brighter where the later one is greater`
              : `${map} ${look}`
          }
          className={`${PICTURE} ${faint ? 'opacity-60' : ''}`}
        />
      </div>
    )
  return (
    <>
      <div className="grid min-h-0 flex-1 grid-rows-[minmax(0,1fr)] place-items-center bg-view">
        <img src={got.pictures.after} alt={`${map} after, right of the seam`} className={PICTURE} />
        <img
          src={got.pictures.before}
          alt={`${map} before, left of the seam`}
          className={PICTURE}
          style={{ clipPath: `inset(0 ${100 - seam}% 0 0)` }}
        />
      </div>
      <input
        type="range"
        aria-label="Seam: before to the left, after to the right"
        min={0}
        max={100}
        step={0.5}
        value={seam}
        onChange={(event) => setSeam(Number(event.target.value))}
        className="w-full accent-accent"
      />
    </>
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
