import { wrap } from 'comlink'
import { useEffect, useRef, useState } from 'react'
import type { MaterialDocument } from '#core/graph/document'
import type { Coordinator, Picture } from '../../../runtime/browser/coordinator.worker'

export type PictureState =
  | { kind: 'waiting' }
  | { kind: 'shown'; picture: Picture; sharp: boolean; document: MaterialDocument }
  | { kind: 'failed'; message: string }

const ROUGH = 256

/** Evaluates an output in the workers, roughly first, then at the full width; the newest document wins. */
export function usePicture(document: MaterialDocument, output: string, width: number): PictureState {
  const [state, setState] = useState<PictureState>({ kind: 'waiting' })
  const worker = useRef<ReturnType<typeof wrap<Coordinator>>>(null)

  useEffect(() => {
    const thread = new Worker(new URL('../../../runtime/browser/coordinator.worker.ts', import.meta.url), {
      type: 'module',
    })
    worker.current = wrap<Coordinator>(thread)
    return () => thread.terminate()
  }, [])

  useEffect(() => {
    let wanted = true
    const draw = async () => {
      for (const size of [Math.min(ROUGH, width), width]) {
        const outcome = await worker.current!.draw(document, output, size)
        if (!wanted) return
        if ('picture' in outcome) setState({ kind: 'shown', picture: outcome.picture, sharp: size === width, document })
        else if (!outcome.cancelled) return setState({ kind: 'failed', message: outcome.error })
      }
    }
    void draw()
    return () => {
      wanted = false
    }
  }, [document, output, width])

  // A picture of an earlier document stays on screen, but is not called sharp.
  return state.kind === 'shown' && state.document !== document ? { ...state, sharp: false } : state
}
