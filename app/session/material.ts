import { createContext, useCallback, useContext, useState } from 'react'
import { useStore } from 'zustand'
import type { MaterialDocument } from '#core/document/document'
import { applyDials } from '#core/document/apply-dials'
import type { SharedValue } from '#core/document/edits/shared-values'
import { shared } from '#core/same-json'
import type { Asset } from '../contracts/asset'
import type { Editing, EditingControl } from './document/document-store'
import type { Evaluation, EvaluationControl } from './engine/engine-client'
import type { Weights, WeightsControl } from './engine/weights'
import type { Actions } from './actions/actions'
import type { Seen } from './engine/seen'
import type { Placement, PlacementControl } from './placement'
import type { View, ViewStore } from './view'

/** What everything on the material screen works with. */
export interface Material {
  readonly id: string
  readonly control: EditingControl
  readonly view: ViewStore
  readonly actions: Actions
  /** Absent until the workers are there. */
  readonly evaluation: EvaluationControl
  /** What nodes cost and do, once that was asked for. */
  readonly weights: WeightsControl
  /** The parts of the project, and the one that it is shown on. */
  readonly placement: PlacementControl
  /** Swatches and bands that are on screen. */
  readonly seen: Seen
  readonly assets: readonly Asset[]
  /** The project that it is in, and its values, as they were when the material was opened or one was set from here. */
  readonly project: string
  readonly values: readonly SharedValue[]
  /** Makes a value of the project; says what went wrong, or null. */
  readonly shareValue: (value: SharedValue) => Promise<string | null>
  readonly addAsset: (file: File) => Promise<Asset | string>
}

export const MaterialContext = createContext<Material | null>(null)

export function useMaterial(): Material {
  const material = useContext(MaterialContext)
  if (!material) throw new Error('outside the material screen')
  return material
}

export const useActions = (): Actions => useMaterial().actions

export function useView<T>(select: (view: View) => T): T {
  return useStore(useMaterial().view, select)
}

export function useDocument(): MaterialDocument {
  return useStore(useMaterial().control.store, (editing) => editing.document)
}

/**
 * The document but for its dials: it stays the same object while only dials turn. For all that shows no dial, so that a
 * turning dial draws nothing anew but itself and what it drives.
 */
export function useUndialled(): MaterialDocument {
  const [select] = useState(() => {
    let last: MaterialDocument | null = null
    return ({ document }: Editing): MaterialDocument => (last = last && sameUndialled(last, document) ? last : document)
  })
  return useStore(useMaterial().control.store, select)
}

const sameUndialled = (a: MaterialDocument, b: MaterialDocument): boolean =>
  (Object.keys({ ...a, ...b }) as (keyof MaterialDocument)[]).every((key) => key === 'dials' || a[key] === b[key])

export function useEvaluation<T>(select: (evaluation: Evaluation) => T): T {
  return useStore(useMaterial().evaluation.store, select)
}

/** Something of the parts of the project. */
export function usePlacement<T>(select: (placement: Placement) => T): T {
  return useStore(useMaterial().placement.store, select)
}

export function useWeights<T>(select: (weights: Weights) => T): T {
  return useStore(useMaterial().weights.store, select)
}

/** The last document of each open material with its dials' values written in; the many that ask for one share it. */
const applied = new WeakMap<EditingControl, { of: MaterialDocument; made: MaterialDocument }>()

function appliedTo(control: EditingControl, document: MaterialDocument): MaterialDocument {
  const known = applied.get(control)
  if (known?.of === document) return known.made
  // What a dial writes is written again with every change; what comes to the same stays the same. Faults are told on the stage.
  const made = shared(
    known?.made,
    applyDials(document, () => {}),
  )
  applied.set(control, { of: document, made })
  return made
}

/** Something of the document with its dials' values written in; as it is where a dial is at fault. */
export function useApplied<T>(select: (document: MaterialDocument) => T): T {
  const { control } = useMaterial()
  return useStore(control.store, ({ document }) => select(appliedTo(control, document)))
}

/** A ref for the element that shows something by its name: the workers make only what is on screen. */
export function useWatched(name: string): (element: Element | null) => (() => void) | undefined {
  const { seen } = useMaterial()
  return useCallback((element) => (element ? seen.watch(element, name) : undefined), [seen, name])
}
