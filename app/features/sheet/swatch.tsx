import { useEffect, useRef } from 'react'
import { useEvaluation } from '../material/material'

/** A live small picture of an output. Its `data-drawn` counts how often the picture has changed. */
export function Swatch({ output, className = '' }: { output: string; className?: string }) {
  const swatch = useEvaluation((evaluation) => evaluation.swatches[output])
  const fault = useEvaluation((evaluation) => evaluation.faults[output])
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    const target = canvas.current
    if (!target || !swatch) return
    target.width = swatch.width
    target.height = swatch.height
    target.getContext('2d')!.putImageData(new ImageData(swatch.pixels, swatch.width, swatch.height), 0, 0)
  }, [swatch])
  if (fault)
    return (
      <span title={fault.message} className={`grid place-items-center bg-panel text-ink ${className}`}>
        ■
      </span>
    )
  return (
    <canvas
      ref={canvas}
      aria-hidden
      data-output={output}
      data-drawn={swatch?.drawn ?? 0}
      className={`bg-view object-cover ${swatch ? '' : 'animate-pulse opacity-40'} ${className}`}
    />
  )
}
