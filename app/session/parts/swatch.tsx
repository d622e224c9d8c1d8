import type { Output } from '#core/document/address'
import { formatOutput } from '#core/document/address'
import { Picture } from '../../ui/picture'
import { useEvaluation, useWatched } from '../material'

/** A live small picture of an output. Its `data-changes` counts how often the picture has changed. */
export function Swatch({ output, className = '' }: { output: Output; className?: string }) {
  const name = formatOutput(output)
  const swatch = useEvaluation((evaluation) => evaluation.swatches[name])
  const fault = useEvaluation((evaluation) => evaluation.faults[name])
  const watched = useWatched(name)
  if (fault)
    return (
      <span ref={watched} title={fault.message} className={`grid place-items-center bg-panel text-ink ${className}`}>
        ■
      </span>
    )
  return (
    <Picture
      watched={watched}
      picture={swatch}
      data-output={name}
      data-changes={swatch?.changes ?? 0}
      className={className}
    />
  )
}
