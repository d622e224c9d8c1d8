import { metresOf } from '#core/document/domain'
import type { ReactNode } from 'react'
import { useCallback, useEffect, useMemo, useState } from 'react'
import { proxy, wrap } from 'comlink'
import { useStore } from 'zustand'
import { TileMetres } from '../ui/number-box'
import type { CoordinatorCalls } from '#runtime/browser/coordinator.worker'
import type { Asset } from '../contracts/asset'
import type { OpenDocument } from '../contracts/document'
import { sendImage, sendModel } from './send-file'
import { useEditing } from './document/use-document-store'
import { openWeights } from './engine/weights'
import type { SharedValue } from '#core/document/edits/shared-values'
import { askJson } from './ask'
import { useEvents } from './events/use-events'
import type { EngineClient } from './engine/engine-client'
import { openEvaluation } from './engine/engine-client'
import { createSeen } from './engine/seen'
import { createActions } from './actions/actions'
import type { Imported } from './actions/images'
import { isTransparent } from './is-transparent'
import { openPlacement } from './placement'
import { rememberPlace } from './remember-place'
import { rememberView } from './remember-view'
import type { Material } from './material'
import { MaterialContext } from './material'
import { createView } from './view'

const openWorker = (): Worker =>
  new Worker(new URL('../../runtime/browser/coordinator.worker.ts', import.meta.url), { type: 'module' })

/** The first page's worker: it loads while the page does. */
let ahead = typeof window === 'undefined' ? null : openWorker()

/** The workers' calls, waiting until the page is in a browser. */
function lateWorker(): { client: EngineClient; start(): () => void } {
  let ready: (worker: ReturnType<typeof wrap<CoordinatorCalls>>) => void
  let worker = new Promise<ReturnType<typeof wrap<CoordinatorCalls>>>((resolve) => (ready = resolve))
  let told: Parameters<EngineClient['listen']>[0] = () => {}
  return {
    client: {
      evaluatePreview: async (view, request) => (await worker).evaluatePreview(view, request),
      pack: async (request) => (await worker).pack(request),
      listen: (listener) => (told = listener),
      forecastLarge: async (wanted) => (await worker).forecastLarge(wanted),
      probe: async (view, u, v) => (await worker).probe(view, u, v),
      beginWeighing: async (document, width) => (await worker).beginWeighing(document, width),
      weigh: async (node) => (await worker).weigh(node),
      endWeighing: async () => (await worker).endWeighing(),
      conspicuous: async (view, width) => (await worker).conspicuous(view, width),
      windowOf: async (document, request, onProgress) => (await worker).windowOf(document, request, proxy(onProgress)),
      endWindow: async () => (await worker).endWindow(),
      exportForEditor: async (document, wanted, onProgress) =>
        (await worker).exportForEditor(document, wanted, proxy(onProgress)),
      importFromEditor: async (document, file, onProgress) =>
        (await worker).importFromEditor(document, file, proxy(onProgress)),
      endExchange: async () => (await worker).endExchange(),
      texturesOf: async (document, width, look) => (await worker).texturesOf(document, width, look),
      endTextures: async () => (await worker).endTextures(),
      placeAt: async (view, place) => (await worker).placeAt(view, place),
      example: async (type) => (await worker).example(type),
      picture: async (document, width) => (await worker).picture(document, width),
    },
    start: () => {
      const thread = ahead ?? openWorker()
      ahead = null
      const calls = wrap<CoordinatorCalls>(thread)
      ready(calls)
      void calls.listen(proxy((view, ratio) => told(view, ratio)))
      return () => {
        thread.terminate()
        worker = new Promise((resolve) => (ready = resolve))
      }
    },
  }
}

/** What the screens of one material share: the open document with its undo, the workers and what they have made. */
export function MaterialProvider({
  opened,
  assets: listed,
  values: listedValues,
  project,
  children,
}: {
  opened: OpenDocument
  assets: readonly Asset[]
  values: readonly SharedValue[]
  project: string
  children: ReactNode
}) {
  const control = useEditing(opened.id, opened)
  const [assets, setAssets] = useState(listed)
  const [{ fixed, worker }] = useState(() => {
    const worker = lateWorker()
    const view = createView()
    const placement = openPlacement(project, opened.id)
    const addAsset = async (file: File): Promise<Imported | string> => {
      const [sent, transparent] = await Promise.all([sendImage(file, project), isTransparent(file)])
      if (typeof sent !== 'string') setAssets((now) => [...now.filter(({ sha256 }) => sha256 !== sent.sha256), sent])
      return typeof sent === 'string' ? sent : { ...sent, transparent: transparent ?? sent.channels % 2 === 0 }
    }
    const addModel = async (file: File): Promise<string | null> => {
      const sent = await sendModel(file, project)
      if (typeof sent === 'string') return sent
      await placement.load()
      return null
    }
    const actions = createActions(control, view, { addAsset, addModel })
    return {
      worker,
      fixed: {
        id: opened.id,
        control,
        view,
        actions,
        addAsset,
        placement,
        evaluation: openEvaluation(worker.client, undefined, placement.resolve),
        weights: openWeights(worker.client, placement.resolve),
        seen: createSeen(),
      },
    }
  })
  const [values, setValues] = useState(listedValues)
  const shareValue = useCallback(
    async (value: SharedValue): Promise<string | null> => {
      try {
        const response = await askJson(`/projects/${project}/values`, 'PUT', value)
        const json: unknown = await response.json()
        if (!response.ok) return (json as { error: string }).error
        setValues(json as SharedValue[])
        return null
      } catch {
        return 'Cannot reach the server.'
      }
    },
    [project],
  )
  const material: Material = useMemo(
    () => ({ ...fixed, assets, values, project, shareValue }),
    [fixed, assets, values, project, shareValue],
  )
  useEffect(() => {
    const ends = [
      rememberView(fixed.view),
      rememberPlace(fixed.view, fixed.id, fixed.control.store.getState().document),
    ]
    return () => ends.forEach((end) => end())
  }, [fixed])
  useEffect(() => worker.start(), [worker])
  const onParts = useStore(control.store, ({ document }) => document.domain.kind === 'part')
  useEffect(() => {
    if (onParts) void fixed.placement.load()
  }, [fixed, onParts])
  const models = useStore(fixed.placement.store, (one) => one.models)
  // What is baked meanwhile is read anew.
  useEvents(
    onParts ? (models ?? []).map(({ id }) => `model:${id}`) : [],
    (notice) => {
      if (notice.type === 'run' && notice.run.endedAt !== null) void fixed.placement.load()
    },
    { onMended: () => onParts && void fixed.placement.load() },
  )
  const metres = useStore(control.store, ({ document }) => metresOf(document)[0])
  return (
    <MaterialContext.Provider value={material}>
      <TileMetres.Provider value={metres}>{children}</TileMetres.Provider>
    </MaterialContext.Provider>
  )
}
