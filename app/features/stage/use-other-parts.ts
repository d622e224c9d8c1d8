import { useEffect, useMemo } from 'react'
import type { MaterialDocument } from '#core/document/document'
import { metresOf, onPart } from '#core/document/domain'
import type { PartFacts } from '#core/document/domain'
import type { ProjectParts } from '../../contracts/parts'
import { ask } from '../../session/ask'
import { useEvaluation, useMaterial, useUndialled, useView } from '../../session/material'
import type { Dress, StageRenderer } from './stage-renderer.client'

/** Widths of what other parts wear: soon, and as well as is seen from where all of a model is seen. */
const WIDTHS = [256, 512]

/** Documents of other materials by material and revision; they never change. */
const documents = new Map<string, Promise<MaterialDocument>>()

function documentAt(id: string, revision: number): Promise<MaterialDocument> {
  const address = `/documents/${id}/revisions/${revision}`
  let found = documents.get(address)
  if (!found) {
    found = ask(address).then(async (response) => {
      if (!response.ok) throw new Error(`${address} cannot be read.`)
      return (await response.json()) as MaterialDocument
    })
    documents.set(address, found)
    found.catch(() => documents.delete(address))
  }
  return found
}

/** A part beside the one that is worked on, and where its material comes from; a head of null is the open one. */
interface Other {
  readonly part: number
  readonly facts: PartFacts
  readonly material: string
  readonly head: number | null
}

/**
 * Dresses the other parts of a model in their materials, one after the other, while nothing else is being made: an edit goes before
 * them. What lies on them of the open material follows its edits.
 */
export function useOtherParts(renderer: StageRenderer, model: ProjectParts | null, part: number, shows: boolean): void {
  const { id, control, evaluation } = useMaterial()
  const look = useView((one) => one.stage.look)
  const rests = useEvaluation(({ state }) => state === 'sharp')
  const document = useUndialled()
  const others = useMemo(
    (): Other[] =>
      (model?.parts ?? []).flatMap(({ part: number, facts, material }) =>
        material && number !== part
          ? [{ part: number, facts, material: material.id, head: material.id === id ? null : material.head }]
          : [],
      ),
    [model, part, id],
  )
  const mesh = model?.mesh ?? null
  // What each wears, so that it is not made again.
  const worn = useMemo(() => new Map<number, { of: string; dress: Dress }>(), [mesh, renderer])
  useEffect(() => {
    for (const number of worn.keys())
      if (!others.some((one) => one.part === number)) {
        worn.delete(number)
        renderer.setDress(number, null)
      }
    if (!shows || !rests) return
    let wanted = true
    void (async () => {
      const open = control.store.getState().document
      for (const width of WIDTHS)
        for (const { part: number, facts, material, head } of others) {
          const own = head === null ? open : await documentAt(material, head).catch(() => null)
          if (!wanted) return
          if (!own || own.domain.kind !== 'part') continue
          const on = onPart(own, facts)
          const of = `${JSON.stringify(on)} ${look}@${width}`
          const before = worn.get(number)?.of
          if (before === of || before === `${JSON.stringify(on)} ${look}@${WIDTHS.at(-1)}`) continue
          const made = await evaluation.texturesOf(on, width, look)
          if (!wanted) return
          if ('error' in made) continue
          const { heightMetres, emissionStrength, surface } = on
          const dress: Dress = {
            textures: made.textures,
            material: { metres: metresOf(on), heightMetres, emissionStrength, surface },
          }
          worn.set(number, { of, dress })
          renderer.setDress(number, dress)
        }
    })()
    return () => {
      wanted = false
      void evaluation.endTextures()
    }
  }, [renderer, evaluation, control, others, worn, shows, rests, document, look])
  // Another model has other parts.
  useEffect(
    () => () => {
      for (const number of worn.keys()) renderer.setDress(number, null)
    },
    [renderer, worn],
  )
}
