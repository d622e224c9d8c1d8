import { Picture } from '../../ui/picture'
import { useEvaluation } from '../material'

/** A live small picture of an output. Its `data-drawn` counts how often the picture has changed. */
export function Swatch({ output, className = '' }: { output: string; className?: string }) {
  const swatch = useEvaluation((evaluation) => evaluation.swatches[output])
  const fault = useEvaluation((evaluation) => evaluation.faults[output])
  if (fault)
    return (
      <span title={fault.message} className={`grid place-items-center bg-panel text-ink ${className}`}>
        ■
      </span>
    )
  return <Picture picture={swatch} data-output={output} data-drawn={swatch?.drawn ?? 0} className={className} />
}
