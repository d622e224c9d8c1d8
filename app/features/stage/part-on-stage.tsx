import { useEffect, useMemo, useState } from 'react'
import { Link, useFetcher } from 'react-router'
import { kindsRead } from '#core/graph/kinds-read'
import { registry } from '#core/nodes/registry.generated'
import type { ProjectPart } from '../../contracts/parts'
import { useMaterial, usePlacement, useUndialled } from '../../session/material'
import { modelWorker } from '../../session/model/model-worker'
import { meshAddress } from '../../session/model/addresses'
import { shownPart } from '../../session/placement'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import type { StageRenderer } from './stage-renderer.client'

const keyOf = (model: string, part: number): string => `${model} ${part}`

/** The part that a material for parts is shown on, and which materials lie where. */
export function PartOnStage({ renderer, shows }: { renderer: StageRenderer; shows: boolean }) {
  const { id, project, placement } = useMaterial()
  const state = usePlacement((one) => one)
  const shown = shownPart(state, id)
  const [problem, setProblem] = useState<string | null>(null)
  const model = shown?.model.id ?? null
  const mesh = shown?.model.mesh ?? null
  const uvSet = shown?.model.uvSet ?? 0
  const part = shown?.part.part ?? 0
  useEffect(() => {
    if (!shows || model === null || mesh === null) return renderer.setModel(null, 0)
    let wanted = true
    const address = meshAddress({ id: model, mesh, high: null, cage: null }, 'low')!
    modelWorker()
      .geometryOf(address, uvSet)
      .then(
        (parts) => wanted && renderer.setModel(parts, part),
        () => wanted && setProblem('The model cannot be read right now. Reload the page to try again.'),
      )
    return () => {
      wanted = false
    }
  }, [renderer, shows, model, mesh, uvSet, part])
  if (!shows) return null
  if (state.models === null) return state.problem ? <Note words={state.problem} /> : null
  const options = state.models.flatMap((one) =>
    one.parts.map((each) => ({
      value: keyOf(one.id, each.part),
      word: `${each.facts.name}${each.material ? ` · ${each.material.id === id ? 'this material' : each.material.name}` : ''}`,
    })),
  )
  if (options.length === 0)
    return (
      <p className="absolute inset-x-8 top-1/3 rounded-md bg-raised p-4">
        This project has no models yet.{' '}
        <Link to={`/projects/${project}`} className="text-accent-ink underline">
          Add one on the project’s page.
        </Link>
      </p>
    )
  const lies = shown?.part.material?.id === id
  return (
    <>
      {!shown && <Note words="This material lies on no part yet. Choose one below to see it there." />}
      {problem && <Note words={problem} />}
      <div className="absolute inset-x-2 bottom-12 flex flex-wrap items-center justify-end gap-1.5">
        {shown && <Lacking part={shown.part} model={shown.model.id} />}
        {shown && !lies && (
          <Button
            title={
              shown.part.material
                ? `${shown.part.facts.name} has ${shown.part.material.name} now`
                : `${shown.part.facts.name} has no material yet`
            }
            onClick={() => void placement.place({ model: shown.model.id, part: shown.part.part }, id)}
          >
            Put it on this part
          </Button>
        )}
        <Choice
          label="Shown on"
          value={shown ? keyOf(shown.model.id, shown.part.part) : ''}
          options={shown ? options : [{ value: '', word: 'choose a part' }, ...options]}
          onChange={(key) => {
            const [chosenModel, chosenPart] = key.split(' ')
            if (chosenPart !== undefined) placement.choose({ model: chosenModel!, part: Number(chosenPart) })
          }}
          className="h-6 max-w-72"
        />
      </div>
    </>
  )
}

/** Mesh data that the material reads and the part has not, or has of an earlier mesh. */
function Lacking({ part, model }: { part: ProjectPart; model: string }) {
  const document = useUndialled()
  const fetcher = useFetcher()
  const needed = useMemo(() => kindsRead(document, registry, { always: true }), [document])
  const missing = needed.filter((kind) => part.facts.data[kind] === undefined)
  const stale = needed.filter((kind) => part.stale.includes(kind))
  const [asked, setAsked] = useState('')
  const wanted = [...missing, ...stale]
  if (wanted.length === 0) return null
  const named = wanted.map((kind) => kind.replace('-', ' ')).join(', ')
  const waits = asked === `${model} ${part.part} ${wanted.join()}`
  const bake = (): void => {
    setAsked(`${model} ${part.part} ${wanted.join()}`)
    const cells = wanted.map((kind) => ({ part: part.part, kind }))
    void fetcher.submit({ intent: 'bake-now', cells } as never, {
      method: 'post',
      action: `/models/${model}`,
      encType: 'application/json',
    })
  }
  return (
    <span className="flex max-w-full items-center gap-2 rounded-md bg-raised px-2 py-0.5">
      <span className="min-w-0 truncate" title={named}>
        ▲ {missing.length > 0 ? 'Not baked yet' : 'Stale'}: {named}
      </span>
      <Button onClick={bake} disabled={waits}>
        {waits ? 'Baking …' : 'Bake it now'}
      </Button>
    </span>
  )
}

function Note({ words }: { words: string }) {
  return <p className="absolute inset-x-8 top-1/3 rounded-md bg-raised p-4">{words}</p>
}
