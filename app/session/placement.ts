import { createStore } from 'zustand/vanilla'
import type { MaterialDocument } from '#core/document/document'
import type { PartFacts } from '#core/document/domain'
import { onPart } from '#core/document/domain'
import { sameJson, shared } from '#core/same-json'
import type { PartPlace, ProjectPart, ProjectParts } from '../contracts/parts'
import { partPlace } from '../contracts/parts'
import { recall, remember } from '../ui/browser-storage'
import { ask, askJson } from './ask'

/** The parts of a project, and the one that the open material is shown on. */
export interface Placement {
  /** Null until they are there. */
  readonly models: readonly ProjectParts[] | null
  readonly problem: string | null
  /** What was chosen by hand; null leaves it to where the material lies. */
  readonly chosen: PartPlace | null
}

const storageName = (document: string): string => `amber-grist-part:${document}`
const samePlace = (a: PartPlace, b: PartPlace): boolean => a.model === b.model && a.part === b.part && a.udim === b.udim

/** Whether a material lies on a part, or on IDs of it. */
export const liesOn = ({ material, onIds }: ProjectPart, document: string): boolean =>
  material?.id === document || onIds.some((one) => one.material.id === document)

/** A part in words, with its tile where it lies in several. */
export const partInWords = ({ facts, udim }: ProjectPart): string =>
  udim === undefined ? facts.name : `${facts.name}, tile ${udim}`

/** The part that a material is shown on: the chosen one, else the first it lies on. */
export function shownPart(
  { models, chosen }: Placement,
  document: string,
): { readonly model: ProjectParts; readonly part: ProjectPart } | null {
  const all = (models ?? []).flatMap((model) => model.parts.map((part) => ({ model, part })))
  return (
    all.find(({ model, part }) => chosen && samePlace({ model: model.id, part: part.part, udim: part.udim }, chosen)) ??
    all.find(({ part }) => part.material?.id === document) ??
    all.find(({ part }) => liesOn(part, document)) ??
    null
  )
}

/** Keeps what the open material lies on; documents are evaluated on it. */
export function openPlacement(project: string, document: string) {
  const store = createStore<Placement>(() => ({ models: null, problem: null, chosen: null }))
  const { getState: get, setState: set } = store
  let onto = new WeakMap<MaterialDocument, MaterialDocument>()
  let facts: PartFacts | null = null
  const answer = async (work: Promise<Response>): Promise<void> => {
    try {
      const response = await work
      const json = (await response.json()) as readonly ProjectParts[] | { error: string }
      if ('error' in json) set({ problem: json.error })
      // What did not change stays the same object: nothing that follows it begins anew.
      else set({ models: shared(get().models, json), problem: null })
    } catch {
      set({ problem: 'Cannot reach the server.' })
    }
  }
  return {
    store,
    /** Reads the parts of the project, or reads them anew. */
    load: async (): Promise<void> => {
      if (get().models === null) set({ chosen: recall(storageName(document), partPlace) })
      await answer(ask(`/projects/${project}/parts`))
    },
    /** Shows the material on a part. */
    choose: (chosen: PartPlace): void => {
      remember(storageName(document), chosen)
      set({ chosen })
    },
    /** Puts a material on a part, or takes off what lies there. */
    place: (on: PartPlace, material: string | null): Promise<void> =>
      answer(askJson(`/projects/${project}/parts`, 'PUT', { ...on, material })),
    /** A document as it lies on the part that is shown: the same for the same. */
    resolve: (one: MaterialDocument): MaterialDocument => {
      if (one.domain.kind === 'tile') return one
      const now = shownPart(get(), document)?.part.facts ?? null
      if (!sameJson(now, facts)) {
        facts = now
        onto = new WeakMap()
      }
      const known = onto.get(one)
      if (known) return known
      const made = onPart(one, facts)
      onto.set(one, made)
      return made
    },
  }
}

export type PlacementControl = ReturnType<typeof openPlacement>
