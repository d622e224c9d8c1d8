import { useEffect, useState } from 'react'
import { Link } from 'react-router'
import type { ModelCard, ModelPage } from '../../contracts/model'
import { ask } from '../../session/ask'
import { useMaterial } from '../../session/material'
import { lookOf } from '../../session/model/look'
import { ModelView } from '../../session/model/model-view'
import { Choice, Segments } from '../../ui/choice'

const SURFACES = [
  { value: 'plain', word: 'Plain' },
  { value: 'baked', word: 'Baked' },
  { value: 'checker', word: 'Checker' },
] as const

/** What the server gives as JSON at an address; null until it is there. */
function useFetched<T>(address: string | null): { found: T | null; problem: boolean } {
  const [state, setState] = useState<{ address: string; found: T | null } | null>(null)
  useEffect(() => {
    if (address === null) return
    let wanted = true
    const take = (found: T | null): void => void (wanted && setState({ address, found }))
    void ask(address).then(
      async (response) => take(response.ok ? ((await response.json()) as T) : null),
      () => take(null),
    )
    return () => {
      wanted = false
    }
  }, [address])
  const here = state?.address === address ? state : null
  return { found: here?.found ?? null, problem: here !== null && here.found === null }
}

/** A model of the project in place of a shape: plain grey, with what was baked of it. */
export function ModelOnStage() {
  const { project } = useMaterial()
  const [chosen, setChosen] = useState<string | null>(null)
  const [surface, setSurface] = useState<(typeof SURFACES)[number]['value']>('baked')
  const { found: list, problem } = useFetched<readonly ModelCard[]>(`/projects/${project}/models`)
  const id = chosen ?? list?.[0]?.id ?? null
  const { found: model } = useFetched<ModelPage>(id === null ? null : `/models/${id}/shown`)
  if (problem || list?.length === 0)
    return (
      <p className="absolute inset-x-8 top-1/3 rounded-md bg-raised p-4">
        {problem ? '▲ The models of this project cannot be read right now.' : 'This project has no models yet. '}
        {!problem && (
          <Link to={`/projects/${project}`} className="text-accent-ink underline">
            Add one on the project’s page.
          </Link>
        )}
      </p>
    )
  return (
    <>
      {model && (
        <ModelView
          model={model}
          label={`${model.name}, ${surface}`}
          look={lookOf(model, { surface, shows: 'low', cage: false, isolated: false, part: null, kind: null })}
        />
      )}
      <div className="absolute inset-x-2 bottom-2 flex flex-wrap justify-end gap-1.5">
        {list && id && (
          <Choice
            label="Which model"
            value={id}
            options={list.map((one) => ({ value: one.id, word: one.name }))}
            onChange={setChosen}
          />
        )}
        <Segments
          label="What lies on it"
          value={surface}
          options={SURFACES}
          onChange={(next) => setSurface(next as typeof surface)}
        />
      </div>
    </>
  )
}
