import type { EdgeProps } from '@xyflow/react'
import { BaseEdge, EdgeLabelRenderer, getBezierPath } from '@xyflow/react'
import type { PortType } from '#core/field/field'

export interface WireData extends Record<string, unknown> {
  readonly type: PortType
  readonly conversion: string | null
  readonly faint: boolean
}

/** A wire; one that carries three values is drawn double. What is converted on the way stands on it. */
export function NodeWire({ id, selected, data, ...ends }: EdgeProps) {
  const { type, conversion, faint } = data as WireData
  const [path, x, y] = getBezierPath(ends)
  const ink = selected ? 'var(--accent)' : 'var(--ink-soft)'
  const triple = type === 'colour' || type === 'normal'
  return (
    <g opacity={faint ? 0.3 : 1}>
      <BaseEdge id={id} path={path} interactionWidth={14} style={{ stroke: ink, strokeWidth: triple ? 4.5 : 1.5 }} />
      {triple && <path d={path} fill="none" stroke="var(--raised)" strokeWidth={1.8} pointerEvents="none" />}
      {conversion && (
        <EdgeLabelRenderer>
          <span
            className="nodrag nopan pointer-events-none absolute rounded border border-rule-strong bg-raised px-1 font-mono text-[9.5px] leading-[14px] text-ink"
            style={{ transform: `translate(-50%, -50%) translate(${x}px, ${y}px)` }}
          >
            {conversion}
          </span>
        </EdgeLabelRenderer>
      )}
    </g>
  )
}
