import type { Output } from '#core/document/address'
import { formatOutput } from '#core/document/address'
import { Picture } from '../../ui/picture'
import { useEvaluation, useWatched } from '../material'

/** A live small picture of an output. Its `data-changes` counts how often the picture has changed. */
export function Swatch({
  output,
  calm = false,
  className = '',
}: {
  output: Output
  /** What is not finished is nothing to tell of. */
  calm?: boolean
  className?: string
}) {
  const name = formatOutput(output)
  const swatch = useEvaluation((evaluation) => evaluation.swatches[name])
  const fault = useEvaluation((evaluation) => evaluation.faults[name])
  const watched = useWatched(name)
  if (fault?.missing)
    return (
      <span
        ref={watched}
        title={fault.message}
        className={`grid place-items-center ${calm ? 'border border-dashed border-rule-strong text-ink-soft' : 'bg-panel text-ink'} ${className}`}
      >
        {calm ? '' : '■'}
      </span>
    )
  const picture = (
    <Picture
      watched={watched}
      picture={swatch}
      data-output={name}
      data-changes={swatch?.changes ?? 0}
      className={fault ? 'size-full rounded-[inherit]' : className}
    />
  )
  if (!fault) return picture
  return (
    <span className={`relative block ${className}`} title={`Shown without what is not finished: ${fault.message}`}>
      {picture}
      <span
        aria-label="not finished"
        role="img"
        className="absolute -top-1 -right-1 rounded-full bg-panel px-0.5 text-tiny leading-none"
      >
        ▲
      </span>
    </span>
  )
}
