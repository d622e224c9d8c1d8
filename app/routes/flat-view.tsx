import { useMemo, useState } from 'react'
import type { MaterialDocument } from '#core/graph/document'
import { FlatStage } from '../features/stage/flat-stage'
import { usePicture } from '../features/stage/use-picture'
import { findMaterial } from '../server/database.server'
import { NumberSlider } from '../ui/number-slider'
import { TopBar } from '../ui/top-bar'
import type { Route } from './+types/flat-view'

const MATERIAL = 'Quay setts'
const DIAL = 'joint'
const WIDTH = 1024

export const meta: Route.MetaFunction = () => [{ title: `${MATERIAL} · Amber Grist` }]

export async function loader() {
  const document = await findMaterial(MATERIAL)
  if (!document) throw new Response('The demo is not in the database. Start with bin/start.', { status: 404 })
  return { document }
}

export default function FlatView({ loaderData }: Route.ComponentProps) {
  const { document } = loaderData
  const dial = document.dials.find(({ id }) => id === DIAL)!
  const [value, setValue] = useState(Number(dial.value))
  const turned = useMemo(() => withDial(document, DIAL, value), [document, value])
  const state = usePicture(turned, 'colour', WIDTH)
  const picture = state.kind === 'shown' ? state.picture : null
  return (
    <div className="flex h-screen flex-col">
      <TopBar place={['Lantern Sluice', MATERIAL]} />
      <main className="flex min-h-0 flex-1 flex-col">
        <h1 className="sr-only">{MATERIAL}, base colour</h1>
        <FlatStage state={state} name={MATERIAL} />
        <section aria-label="Dials" className="border-t border-rule bg-panel px-4 py-3">
          <div className="max-w-xl">
            <NumberSlider
              label={dial.label}
              help={dial.help}
              min={dial.min ?? 0}
              max={dial.max ?? 1}
              standard={Number(dial.default)}
              value={value}
              onChange={setValue}
            />
          </div>
        </section>
      </main>
      <footer
        role="status"
        className="flex h-6 items-center gap-4 border-t border-rule bg-panel px-4 font-mono text-[11px] text-ink-soft"
      >
        {picture ? (
          <>
            <span>{state.kind === 'shown' && state.sharp ? '● sharp' : '◌ working'}</span>
            <span>
              {picture.width} × {picture.height}
            </span>
            <span>
              {picture.evaluated} steps evaluated, {picture.reused} kept
            </span>
            <span>{Math.round(picture.milliseconds)} ms</span>
          </>
        ) : (
          <span>base colour</span>
        )}
      </footer>
    </div>
  )
}

const withDial = (document: MaterialDocument, id: string, value: number): MaterialDocument => ({
  ...document,
  dials: document.dials.map((dial) => (dial.id === id ? { ...dial, value } : dial)),
})
