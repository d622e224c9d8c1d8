import { useEffect, useRef } from 'react'
import type { PictureState } from './use-picture'

/** The stage, flat: one tile on mid-grey. */
export function FlatStage({ state, name }: { state: PictureState; name: string }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const picture = state.kind === 'shown' ? state.picture : null

  useEffect(() => {
    const target = canvas.current
    if (!target || !picture) return
    target.width = picture.width
    target.height = picture.height
    target
      .getContext('2d', { colorSpace: 'srgb' })!
      .putImageData(new ImageData(picture.pixels, picture.width, picture.height), 0, 0)
  }, [picture])

  return (
    <div className="relative flex min-h-0 flex-1 items-center justify-center bg-view p-6">
      <canvas
        ref={canvas}
        role="img"
        aria-label={`${name}, base colour, one tile seen flat`}
        data-sharp={state.kind === 'shown' && state.sharp}
        className={picture ? 'aspect-square h-full max-w-full object-contain' : 'hidden'}
      />
      {state.kind === 'waiting' && <p className="rounded-md bg-raised px-3 py-2">Evaluating …</p>}
      {state.kind === 'failed' && (
        <p role="alert" className="max-w-md rounded-md bg-raised px-3 py-2">
          ■ {state.message}
        </p>
      )}
    </div>
  )
}
