import type { ReactNode } from 'react'
import type { NumberProps } from './number-box'
import { NumberBox, useSidewaysDrag } from './number-box'
import { fitted, stepOf } from './numbers'
import { Tip } from './tip'

/** Columns of a parameter's row: label, control, value. */
export const ROW = 'grid grid-cols-[7.5rem_minmax(0,1fr)_7rem] items-center gap-2'

/** A named number: label and box drag sideways, the track sets it directly. */
export function NumberField({ help, aside, ...props }: NumberProps & { help?: string; aside?: ReactNode }) {
  const { label, standard, onDrag, onDrop } = props
  const drag = useSidewaysDrag(props, stepOf(props) / 2)
  const reset = (): void => {
    onDrag(standard)
    onDrop()
  }
  return (
    <div className={ROW}>
      <FieldLabel
        label={label}
        help={help}
        aside={aside}
        onDoubleClick={reset}
        {...drag}
        className="cursor-ew-resize"
      />
      <Track {...props} onReset={reset} />
      <NumberBox {...props} />
    </div>
  )
}

/** A label with its help as a tooltip. */
export function FieldLabel({
  label,
  help,
  aside,
  className = '',
  ...rest
}: { label: string; help?: string; aside?: ReactNode } & React.ComponentProps<'span'>) {
  const text = (
    <span {...rest} className={`min-w-0 touch-none truncate text-ink-soft select-none ${className}`}>
      {label}
    </span>
  )
  return (
    <span className="flex min-w-0 items-center gap-1">
      {help ? <Tip text={help}>{text}</Tip> : text}
      {aside}
    </span>
  )
}

/** Sets a number by pressing where it should be. The box beside it is what keyboards and screen readers use. */
function Track({ onReset, ...props }: NumberProps & { onReset(): void }) {
  const { min, max, softRange, value, onDrag, onDrop } = props
  const [from, to] = softRange ?? [min, max]
  const ratio = Math.min(1, Math.max(0, (value - from) / (to - from)))
  const follow = (event: React.PointerEvent<HTMLElement>): void => {
    const { left, width } = event.currentTarget.getBoundingClientRect()
    const at = Math.min(1, Math.max(0, (event.clientX - left) / width))
    const step = stepOf(props)
    const raw = from + at * (to - from)
    onDrag(fitted(props.whole ? raw : Math.round(raw / step) * step, props))
  }
  return (
    <span
      aria-hidden
      data-track={props.label}
      className="relative flex h-5 cursor-pointer touch-none items-center"
      onPointerDown={(event) => {
        if (event.button !== 0) return
        event.currentTarget.setPointerCapture(event.pointerId)
        follow(event)
      }}
      onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && follow(event)}
      onPointerUp={onDrop}
      onPointerCancel={onDrop}
      onDoubleClick={onReset}
    >
      <span className="h-[3px] w-full rounded-full bg-rule-strong/60" />
      <span className="absolute h-[3px] rounded-full bg-ink" style={{ width: `${ratio * 100}%` }} />
      <span
        className="absolute h-3.5 w-[5px] -translate-x-1/2 rounded-sm bg-accent"
        style={{ left: `${ratio * 100}%` }}
      />
    </span>
  )
}
