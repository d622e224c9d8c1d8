import type { Remote } from 'comlink'
import { wrap } from 'comlink'
import type { ModelCalls } from '#runtime/browser/model.worker'

let worker: Remote<ModelCalls> | null = null

/** The worker that reads meshes, paints layouts and makes geometries; one for all views of a page. In a browser only. */
export const modelWorker = (): Remote<ModelCalls> =>
  (worker ??= wrap<ModelCalls>(
    new Worker(new URL('../../../runtime/browser/model.worker.ts', import.meta.url), { type: 'module' }),
  ))
