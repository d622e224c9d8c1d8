import { createStore } from 'zustand/vanilla'
import type { MaterialDocument } from '#core/document/document'
import type { NodeWeight } from '#core/material/weigh'
import { UNSEEN, greatestChange, weighedNodes } from '#core/material/weigh'
import type { EngineClient } from './engine-client'

/** What the nodes of a document cost and do, as far as that has been measured. */
export interface Weights {
  readonly state: 'none' | 'measuring' | 'done' | 'failed'
  readonly problem: string | null
  /** The document that was measured. */
  readonly of: MaterialDocument | null
  readonly width: number
  readonly byNode: Readonly<Record<string, NodeWeight>>
  /** How many nodes there are to measure. */
  readonly total: number
}

/** Nodes that were measured and whose going nobody would see. */
export const unseenNodes = ({ byNode }: Pick<Weights, 'byNode'>): string[] =>
  Object.entries(byNode).flatMap(([id, weight]) => ((greatestChange(weight)?.rms ?? 0) < UNSEEN ? [id] : []))

/** Measures the nodes of a document one by one, so that what a person does comes in between. */
export function openWeights(
  client: Pick<EngineClient, 'beginWeighing' | 'weigh' | 'endWeighing'>,
  resolve: (document: MaterialDocument) => MaterialDocument = (document) => document,
) {
  const none: Weights = { state: 'none', problem: null, of: null, width: 0, byNode: {}, total: 0 }
  const store = createStore<Weights>(() => none)
  const { setState: set, getState: get } = store
  let newest = 0
  return {
    store,
    /** Begins anew; what was being measured is given up. */
    async measure(document: MaterialDocument, width: number): Promise<void> {
      const own = ++newest
      const nodes = weighedNodes(document)
      set({ ...none, state: 'measuring', of: document, width, total: nodes.length })
      await client.beginWeighing(resolve(document), width)
      for (const node of nodes) {
        if (own !== newest) return
        const found = await client.weigh(node)
        if (own !== newest) return
        if ('error' in found) {
          set({ state: 'failed', problem: found.error })
          break
        }
        set({ byNode: { ...get().byNode, [node]: found } })
      }
      if (get().state === 'measuring') set({ state: 'done' })
      await client.endWeighing()
    },
    /** Gives up, and forgets what was measured. */
    clear(): void {
      newest++
      set(none)
      void client.endWeighing()
    },
  }
}

export type WeightsControl = ReturnType<typeof openWeights>
