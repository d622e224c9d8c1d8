import { Download, PackageCheck } from 'lucide-react'
import { useState } from 'react'
import { CHANNELS } from '#core/document/channels'
import { Button, buttonClasses } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { bytesInWords, counted } from '../../ui/words'
import { useModel } from './model-context'

const WIDTHS = [256, 512, 1024, 2048, 4096, 8192] as const

/** Maps of all parts that have a material, and what was made before. */
export function DeliverParts() {
  const { placed, packings, deliveries, runs, send } = useModel()
  // What the model itself wears is the usual choice: it is made once then.
  const usual = packings.findIndex(({ name }) => name === 'occlusion-rough-metal-y-up')
  const [packing, setPacking] = useState(Math.max(0, usual))
  const [width, setWidth] = useState<number>(1024)
  const [vertices, setVertices] = useState('')
  const count = new Set([...Object.keys(placed.onPart).map(Number), ...placed.onIds.map(({ part }) => part)]).size
  const busy = runs.some(
    ({ request, state }) => request.do === 'deliver' && (state === 'queued' || state === 'running'),
  )
  const failed = runs.find(({ request }) => request.do === 'deliver')
  const chosen = packings[packing] ?? packings[0]
  return (
    <section aria-label="Deliver" className="grid gap-2 border-t border-rule pt-3">
      <h3 className="font-semibold">Deliver all parts</h3>
      <p className="text-ink-soft">
        Maps of every part that has a material, and the model that wears them: as GLB, as MaterialX and as a list of
        which map goes where; with vertex colours as PLY and OBJ too. All in one ZIP.
      </p>
      <div className="flex flex-wrap items-center gap-2">
        <Choice
          label="Packing"
          value={String(packing)}
          options={packings.map(({ title }, i) => ({ value: String(i), word: title }))}
          onChange={(i) => setPacking(Number(i))}
        />
        <Choice
          label="Width of the maps"
          value={String(width)}
          options={WIDTHS.map((one) => ({ value: String(one), word: `${one} × ${one}` }))}
          onChange={(one) => setWidth(Number(one))}
        />
        <Choice
          label="Vertex colours"
          value={vertices}
          options={[
            { value: '', word: 'no vertex colours' },
            ...CHANNELS.filter(({ type }) => type !== 'normal').map(({ id, title }) => ({
              value: id,
              word: `${title} at vertices too`,
            })),
          ]}
          onChange={setVertices}
        />
        <Button
          variant="main"
          disabled={count === 0 || busy || !chosen}
          onClick={() =>
            chosen &&
            send({ intent: 'deliver', packing: chosen, width, dither: true, ...(vertices === '' ? {} : { vertices }) })
          }
        >
          <PackageCheck size={14} aria-hidden /> {busy ? 'Making …' : `Make ${counted(count, 'part')}`}
        </Button>
      </div>
      {failed?.state === 'failed' && <p role="alert">■ {failed.error}</p>}
      {deliveries.length > 0 && (
        <ul aria-label="Deliveries of this model" className="grid gap-1">
          {deliveries.map((one) => (
            <li key={one.id} className="flex items-center gap-2">
              <a href={`/model-deliveries/${one.id}/model.zip`} download className={buttonClasses('quiet')}>
                <Download size={14} aria-hidden /> ZIP
              </a>
              <span className="min-w-0 truncate">
                {one.packing}, {one.width} wide, {counted(one.sets, 'file set')}
              </span>
              <span className="font-mono text-note text-ink-soft">{bytesInWords(one.bytes)}</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  )
}
