import { formatOutput } from '#core/document/address'
import { drawnOverOutput } from '../../session/histogram-output'
import { useDocument, useEvaluation } from '../../session/material'

/** How often the values are that come into a node, from 0 at the left to 1 at the right: what its curve or ramp is drawn over. */
export function ValuesBehind({ node, className }: { node: string; className: string }) {
  const document = useDocument()
  const output = drawnOverOutput(document, node)
  const found = useEvaluation((evaluation) =>
    output === null ? undefined : evaluation.histograms[formatOutput(output)],
  )
  if (!found || found.from !== 0) return null
  return (
    <svg
      viewBox="0 0 1 1"
      preserveAspectRatio="none"
      className={`pointer-events-none text-ink-soft ${className}`}
      role="img"
      aria-label="How often the values are that come in"
    >
      {found.planes.map(({ bins }, plane) => {
        // A constant would hide everything else.
        const top = Math.max(0.02, Math.min(0.1, Math.max(...bins)))
        const steps = bins.map((ratio, i) => `V${1 - Math.min(1, ratio / top)}H${(i + 1) / bins.length}`).join('')
        return <path key={plane} d={`M0 1${steps}V1Z`} fill="currentColor" opacity={0.3 / found.planes.length} />
      })}
    </svg>
  )
}
