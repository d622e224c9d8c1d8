import type { CSSProperties, PointerEvent } from 'react'
import { factorOf } from './numbers'

/** Right and up for each arrow key. */
const ARROWS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
}

/**
 * A small thing that is dragged over a bar or a square, moved by arrows (a hundredth; Shift coarse, Alt fine), and taken
 * out by Delete. `onStep` gets how far to the right and up, and says by false that the key is not for it.
 */
export function DragHandle({
  label,
  value,
  text,
  onChoose,
  onDrag,
  onDrop,
  onStep,
  onRemove,
  className,
  style,
}: {
  label: string
  value: number
  text: string
  onChoose(): void
  onDrag(event: PointerEvent): void
  onDrop(): void
  onStep(right: number, up: number): boolean
  onRemove(): void
  className: string
  style: CSSProperties
}) {
  return (
    <span
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={value}
      aria-valuemin={0}
      aria-valuemax={1}
      aria-valuetext={text}
      onFocus={onChoose}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        onChoose()
      }}
      onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && onDrag(event)}
      onPointerUp={onDrop}
      onPointerCancel={onDrop}
      onKeyDown={(event) => {
        const arrow = ARROWS[event.key]
        const by = 0.01 * factorOf(event)
        if (arrow && onStep(arrow[0] * by, arrow[1] * by)) event.preventDefault()
        else if (event.key === 'Delete' || event.key === 'Backspace') onRemove()
      }}
      className={`absolute touch-none rounded-full border-2 ${className}`}
      style={style}
    />
  )
}
