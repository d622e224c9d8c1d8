import { ARROWS } from './arrows'
import type { CSSProperties, PointerEvent, ReactNode } from 'react'
import { useEffect, useRef } from 'react'
import { factorOf } from './numbers'

/** A place in the area: from the left and from the bottom, each 0 to 1. */
export interface Place {
  readonly x: number
  readonly y: number
}

/** One thing that is dragged. Without `y` it stands on a bar, where only `x` counts. */
export interface Handle {
  readonly x: number
  readonly y?: number
  readonly label: string
  readonly value: number
  readonly text: string
  readonly className: string
  readonly style?: CSSProperties
}

/** Pixels from a handle's middle within which a press takes it. */
const REACH = 10

const within = (v: number): number => Math.min(1, Math.max(0, v))

/** The handle that a press at `place` takes, in an area of `size` pixels; -1 where none is near. */
export function handleNear(
  handles: readonly Pick<Handle, 'x' | 'y'>[],
  place: Place,
  size: { readonly width: number; readonly height: number },
): number {
  const distances = handles.map(({ x, y = place.y }) =>
    Math.hypot((x - place.x) * size.width, (y - place.y) * size.height),
  )
  const nearest = distances.indexOf(Math.min(...distances))
  return distances[nearest]! <= REACH ? nearest : -1
}

/**
 * A bar or a square with things to drag. A press takes the handle under it, or adds one, and goes on as a drag: one gesture,
 * one edit. The selected handle has the focus; arrows move it (a hundredth; Shift coarse, Alt fine), Delete takes it out.
 *
 * `onAdd` and `onDrag` give the index that the handle has then; `onAdd` null where there can be no more. `onStep` gets how far
 * to the right and up, and says by false that the key is not for it.
 */
export function HandleArea({
  handles,
  selected,
  title,
  onSelect,
  onAdd,
  onDrag,
  onDrop,
  onStep,
  onRemove,
  className,
  style,
  children,
}: {
  handles: readonly Handle[]
  selected: number
  title: string
  onSelect(index: number): void
  onAdd(place: Place): number | null
  onDrag(index: number, place: Place): number
  onDrop(): void
  onStep(index: number, right: number, up: number): boolean
  onRemove(index: number): void
  className: string
  style?: CSSProperties
  children?: ReactNode
}) {
  const area = useRef<HTMLDivElement>(null)
  /** What is dragged, and how far beside its middle it was taken. */
  const dragged = useRef<{ index: number; dx: number; dy: number } | null>(null)
  /** The focus follows the selection where it was in the area, or is called there. */
  const called = useRef(false)
  useEffect(() => {
    if (!called.current && !area.current!.contains(document.activeElement)) return
    called.current = false
    area.current!.querySelectorAll<HTMLElement>('[role=slider]')[selected]?.focus()
  }, [selected, handles.length])

  const placeOf = (event: PointerEvent): Place => {
    const { left, top, width, height } = area.current!.getBoundingClientRect()
    return { x: within((event.clientX - left) / width), y: within(1 - (event.clientY - top) / height) }
  }
  const press = (event: PointerEvent<HTMLDivElement>): void => {
    if (event.button !== 0) return
    // The selected handle takes the focus, not what lies under the pointer.
    event.preventDefault()
    const place = placeOf(event)
    const near = handleNear(handles, place, area.current!.getBoundingClientRect())
    const index = near >= 0 ? near : onAdd(place)
    if (index === null) return
    event.currentTarget.setPointerCapture(event.pointerId)
    const taken = near >= 0 ? handles[near]! : place
    dragged.current = { index, dx: taken.x - place.x, dy: (taken.y ?? place.y) - place.y }
    called.current = true
    onSelect(index)
    area.current!.querySelectorAll<HTMLElement>('[role=slider]')[index]?.focus()
  }
  const end = (): void => {
    if (dragged.current === null) return
    dragged.current = null
    onDrop()
  }
  return (
    <div
      ref={area}
      title={title}
      onPointerDown={press}
      onPointerMove={(event) => {
        const held = dragged.current
        if (held === null) return
        const { x, y } = placeOf(event)
        held.index = onDrag(held.index, { x: within(x + held.dx), y: within(y + held.dy) })
        onSelect(held.index)
      }}
      onPointerUp={end}
      onPointerCancel={end}
      className={`relative touch-none ${className}`}
      style={style}
    >
      {children}
      {handles.map((handle, index) => (
        <span
          key={index}
          role="slider"
          tabIndex={index === selected ? 0 : -1}
          aria-label={handle.label}
          aria-valuenow={handle.value}
          aria-valuemin={0}
          aria-valuemax={1}
          aria-valuetext={handle.text}
          onFocus={() => onSelect(index)}
          onKeyDown={(event) => {
            const arrow = ARROWS[event.key]
            const by = 0.01 * factorOf(event)
            if (arrow && onStep(index, arrow[0] * by, arrow[1] * by)) event.preventDefault()
            else if (event.key === 'PageUp' || event.key === 'PageDown') {
              const next = index + (event.key === 'PageDown' ? 1 : -1)
              if (next >= 0 && next < handles.length) onSelect(next)
              event.preventDefault()
            } else if (event.key === 'Delete' || event.key === 'Backspace') {
              event.stopPropagation()
              onRemove(index)
            }
          }}
          className={`absolute rounded-full border-2 ${handle.className}`}
          style={{
            left: `${handle.x * 100}%`,
            ...(handle.y === undefined ? {} : { top: `${(1 - handle.y) * 100}%` }),
            ...handle.style,
          }}
        />
      ))}
    </div>
  )
}
