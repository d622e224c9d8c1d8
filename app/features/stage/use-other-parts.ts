import { useEffect, useMemo } from 'react'
import type { MaterialDocument } from '#core/document/document'
import { metresOf, onPart } from '#core/document/domain'
import type { PartFacts } from '#core/document/domain'
import { withinIds } from '#core/document/within-ids'
import type { PickedIds } from '#core/picked-ids'
import type { PlacedMaterial, ProjectPart, ProjectParts } from '../../contracts/parts'
import type { OnModel } from './on-model'
import { isSamePlace, onModelKey } from './on-model'
import { documentAt } from '../../session/revisions'
import { useEvaluation, useMaterial, useUndialled, useView } from '../../session/material'
import type { StageRenderer } from './stage-renderer.client'

/** Widths of what other parts wear: soon, and as well as is seen from where all of a model is seen. */
const WIDTHS = [256, 512]
/** How often materials are asked for that the server did not give, and milliseconds between. */
const ROUNDS = 4
const PAUSE = 2000

/** What lies somewhere on a model beside what is worked on, and where its material comes from; a head of null is the open one. */
export interface Other {
  readonly at: OnModel
  readonly facts: PartFacts
  readonly material: string
  readonly head: number | null
  /** Where on the part it lies, where that is not all over it: on these IDs, or on all but these. */
  readonly within?: { readonly ids: readonly PickedIds[]; readonly isInside: boolean }
}

/**
 * All that a model wears beside what is worked on: the open material `id` at one place. Where that lies on IDs of the place, what lies on
 * all of it goes over it elsewhere.
 */
export function othersOn(parts: readonly ProjectPart[], worked: OnModel, id: string): Other[] {
  const from = ({ facts }: ProjectPart, { id: material, head }: PlacedMaterial) => ({
    ...{ facts, material },
    head: material === id ? null : head,
  })
  return parts.flatMap((part): Other[] => {
    const at = { part: part.part, udim: part.udim }
    const onIds = part.onIds.map(({ slot, ids, material }) => ({
      ...{ ...from(part, material), at: { ...at, slot } },
      within: { ids: [ids], isInside: true },
    }))
    if (!isSamePlace(at, worked)) return part.material ? [{ ...from(part, part.material), at }, ...onIds] : onIds
    const own = part.onIds.filter(({ material }) => material.id === id)
    const over = onIds.filter(({ material }) => material !== id)
    if (part.material?.id === id) return over
    if (own.length === 0) return []
    const within = { ids: own.map(({ ids }) => ids), isInside: false }
    return part.material ? [{ ...from(part, part.material), at: { ...at, slot: 0 }, within }, ...over] : over
  })
}

const cutOut = (document: MaterialDocument, { within }: Other): MaterialDocument =>
  within ? within.ids.reduce((cut, ids) => withinIds(cut, ids, within.isInside), document) : document

/**
 * Dresses the rest of a model in its materials, one after the other, while nothing else is being made: an edit goes before them. What
 * lies there of the open material follows its edits.
 */
export function useOtherParts(
  renderer: StageRenderer,
  model: ProjectParts | null,
  worked: OnModel,
  shows: boolean,
): void {
  const { id, control, evaluation } = useMaterial()
  const look = useView((one) => one.stage.look)
  const rests = useEvaluation(({ state }) => state === 'sharp')
  const document = useUndialled()
  const { part, udim } = worked
  const others = useMemo(() => othersOn(model?.parts ?? [], { part, udim }, id), [model, part, udim, id])
  const mesh = model?.mesh ?? null
  // What each wears, so that it is not made again.
  const worn = useMemo(() => new Map<string, { of: string; at: OnModel }>(), [mesh, renderer])
  useEffect(() => {
    for (const [key, { at }] of worn)
      if (!others.some((one) => isSamePlace(one.at, at))) {
        worn.delete(key)
        renderer.undress(at)
      }
    if (!shows || !rests) return
    let wanted = true
    void (async () => {
      const open = control.store.getState().document
      // What is worn is not made twice.
      for (let round = 0; round < ROUNDS && wanted; round++) {
        let isLacking = false
        for (const width of WIDTHS)
          for (const other of others) {
            const { at, facts, material, head } = other
            const own = head === null ? open : await documentAt(material, head).catch(() => null)
            if (!wanted) return
            isLacking ||= own === null
            if (own?.domain.kind !== 'part') continue
            const on = cutOut(onPart(own, facts), other)
            const of = `${JSON.stringify(on)} ${look}@${width}`
            const before = worn.get(onModelKey(at))?.of
            if (before === of || before === `${JSON.stringify(on)} ${look}@${WIDTHS.at(-1)}`) continue
            const made = await evaluation.texturesOf(on, width, look)
            if (!wanted) return
            if ('error' in made) continue
            const { heightMetres, emissionStrength, surface } = on
            worn.set(onModelKey(at), { of, at })
            renderer.setDress({
              ...{ at, textures: made.textures },
              material: { metres: metresOf(on), heightMetres, emissionStrength, surface },
            })
          }
        if (!isLacking) return
        await new Promise((resolve) => setTimeout(resolve, PAUSE))
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
      for (const { at } of worn.values()) renderer.undress(at)
    },
    [renderer, worn],
  )
}
