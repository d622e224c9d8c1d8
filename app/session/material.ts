import { createContext, useContext } from 'react'
import { useStore } from 'zustand'
import type { MaterialDocument } from '#core/document/document'
import { applyDials } from '#core/document/apply-dials'
import type { Asset } from '../contracts/asset'
import type { EditingControl } from './document/document-store'
import type { Evaluation, EvaluationControl } from './engine/engine-client'
import type { Actions } from './actions'
import type { View, ViewStore } from './view'

/** What everything on the material screen works with. */
export interface Material {
  readonly id: string
  readonly control: EditingControl
  readonly view: ViewStore
  readonly actions: Actions
  /** Absent until the workers are there. */
  readonly evaluation: EvaluationControl
  readonly assets: readonly Asset[]
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

export function useEvaluation<T>(select: (evaluation: Evaluation) => T): T {
  return useStore(useMaterial().evaluation.store, select)
}

/** Documents with their dials' values written in, so that the many that ask for one share it. */
const applied = new WeakMap<MaterialDocument, MaterialDocument>()

/** The document with its dials' values written in; as it is where a dial is at fault. */
export function useApplied(): MaterialDocument {
  const document = useDocument()
  const known = applied.get(document)
  if (known) return known
  let made = document
  try {
    made = applyDials(document)
  } catch {
    // The fault is told on the stage, where the drawing fails with it.
  }
  applied.set(document, made)
  return made
}
