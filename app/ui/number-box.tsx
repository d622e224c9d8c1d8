import { Popover } from 'radix-ui'
import { createContext, useContext, useEffect, useId, useRef, useState } from 'react'
import { calculate } from './arithmetic'
import type { NumberRange } from './numbers'
import { factorOf, fitted, shownNumber, stepOf } from './numbers'

/** Metres that a tile is wide, so that lengths may be typed for shares of it; null where there is none. */
export const TileMetres = createContext<number | null>(null)

export interface NumberProps extends NumberRange {
  readonly label: string
  readonly unit?: string
  readonly standard: number
  readonly value: number
  /** While it moves. */
  readonly onDrag: (value: number) => void
  /** When it rests. */
  readonly onDrop: () => void
}

/**
 * Makes an element drag a number sideways. Gives its pointer handlers; a press that does not move is a click.
 * Shift is coarse, Alt is fine.
 */
export function useSidewaysDrag(props: NumberProps, perPixel: number) {
  const from = useRef<{ x: number; value: number; moved: boolean } | null>(null)
  return {
    onPointerDown: (event: React.PointerEvent<HTMLElement>) => {
      if (event.button !== 0) return
      from.current = { x: event.clientX, value: props.value, moved: false }
    },
    onPointerMove: (event: React.PointerEvent<HTMLElement>) => {
      const start = from.current
      if (!start || event.buttons === 0) return
      if (!start.moved) {
        if (Math.abs(event.clientX - start.x) < 3) return
        start.moved = true
        event.currentTarget.setPointerCapture(event.pointerId)
      }
      const moved = event.clientX - start.x
      // Each stretch counts at the fineness held while it was dragged.
      start.x = event.clientX
      start.value += moved * perPixel * factorOf(event)
      start.value = Math.min(props.max, Math.max(props.min, start.value))
      props.onDrag(fitted(start.value, props))
    },
    onPointerUp: () => {
      if (from.current?.moved) props.onDrop()
      from.current = null
    },
    onPointerCancel: () => {
      if (from.current?.moved) props.onDrop()
      from.current = null
    },
  }
}

/** A wheel that stands still for so many milliseconds has come to rest. */
const WHEEL_REST = 400

/** A held key's repeats, or a wheel's notches, as one gesture: it ends with the key, with a pause, or with the focus. */
function useStepping(onDrop: () => void) {
  const state = useRef({ under: false, timer: 0, onDrop })
  useEffect(() => {
    state.current.onDrop = onDrop
  })
  const end = (): void => {
    window.clearTimeout(state.current.timer)
    if (state.current.under) state.current.onDrop()
    state.current.under = false
  }
  useEffect(() => end, [])
  return {
    /** A step was made; the gesture ends by itself after `rest` milliseconds without another. */
    begin(rest?: number): void {
      window.clearTimeout(state.current.timer)
      state.current.under = true
      if (rest !== undefined) state.current.timer = window.setTimeout(end, rest)
    },
    end,
  }
}

/** Milliseconds that a box tells what became of a typed number. */
const TOLD = 5000

/** What a number became, where that is not what was typed; null where it is. */
function changeOf(wanted: number, kept: number, { min, max, unit }: NumberProps): string | null {
  if (Math.abs(wanted - kept) <= 1e-9 * Math.max(1, Math.abs(wanted))) return null
  const words = `${shownNumber(kept)}${unit ? ` ${unit}` : ''}`
  if (kept === max && wanted > max) return `${words} is the most that it takes.`
  if (kept === min && wanted < min) return `${words} is the least that it takes.`
  return `Whole numbers only: ${words}.`
}

/**
 * A number to type, drag sideways, step with arrows and wheel. Shift is coarse, Alt fine; arithmetic and units are worked out
 * (calculate); a double click brings the default back. What is refused, or held to the range, is told beside it.
 */
export function NumberBox({ className = '', ...props }: NumberProps & { className?: string }) {
  const { label, unit, value, min, max, standard, onDrag, onDrop } = props
  const [typed, setTyped] = useState<string | null>(null)
  const [wrong, setWrong] = useState(false)
  // What is told is of a value; another one has nothing to do with it.
  const [telling, setTelling] = useState<{ readonly text: string; readonly of: number } | null>(null)
  const told = telling && telling.of === value ? telling.text : null
  const tell = (text: string | null, of = value): void => setTelling(text === null ? null : { text, of })
  const tileMetres = useContext(TileMetres)
  const toldId = useId()
  const box = useRef<HTMLInputElement>(null)
  const step = stepOf(props)
  const stepping = useStepping(onDrop)
  const set = (next: number): void => {
    onDrag(fitted(next, props))
    stepping.end()
    onDrop()
  }
  const stepTo = (next: number, rest?: number): number => {
    const kept = fitted(next, props)
    onDrag(kept)
    stepping.begin(rest)
    return kept
  }
  const commit = (): void => {
    if (typed === null) return
    const result = calculate(typed, { unit, tileMetres })
    if ('reason' in result) {
      setWrong(true)
      tell(result.reason)
      return
    }
    setTyped(null)
    setWrong(false)
    const kept = fitted(result.value, props)
    tell(changeOf(result.value, kept, props), kept)
    if (result.value !== value) set(result.value)
  }
  useEffect(() => {
    if (telling === null) return
    const timer = window.setTimeout(() => setTelling(null), TOLD)
    return () => window.clearTimeout(timer)
  }, [telling])
  const latest = useRef({ stepTo, value, step })
  useEffect(() => {
    latest.current = { stepTo, value, step }
  })
  useEffect(() => {
    const element = box.current!
    // React's own wheel listener is passive and could not keep the pane from scrolling.
    const wheel = (event: WheelEvent): void => {
      if (document.activeElement !== element) return
      event.preventDefault()
      const { stepTo, value, step } = latest.current
      const by = event.deltaY || event.deltaX
      if (by === 0) return
      // The next notch may come before the box is drawn with this one.
      latest.current.value = stepTo(value - Math.sign(by) * step * factorOf(event), WHEEL_REST)
    }
    element.addEventListener('wheel', wheel, { passive: false })
    return () => element.removeEventListener('wheel', wheel)
  }, [])
  const drag = useSidewaysDrag(props, step / 2)
  return (
    <Popover.Root open={told !== null}>
      <Popover.Anchor asChild>
        <span
          className={`flex items-center rounded border bg-raised font-mono ${wrong ? 'border-accent' : 'border-rule-strong'} ${className}`}
        >
          <input
            ref={box}
            data-typing={typed === null ? undefined : 'yes'}
            role="spinbutton"
            aria-label={label}
            aria-valuenow={value}
            aria-valuemin={min}
            aria-valuemax={max}
            aria-valuetext={unit ? `${shownNumber(value)} ${unit}` : undefined}
            aria-invalid={wrong || undefined}
            aria-describedby={told === null ? undefined : toldId}
            title={`${shownNumber(min)} to ${shownNumber(max)}${unit ? ` ${unit}` : ''}; double-click for ${shownNumber(standard)}`}
            inputMode="decimal"
            autoComplete="off"
            value={typed ?? shownNumber(value)}
            onChange={(event) => {
              setTyped(event.target.value)
              setWrong(false)
              setTelling(null)
            }}
            onFocus={(event) => event.target.select()}
            onBlur={() => {
              stepping.end()
              // A field that is left empty keeps what it had.
              if (typed?.trim() !== '') commit()
              setTyped(null)
              setWrong(false)
            }}
            onDoubleClick={() => {
              setTyped(null)
              set(standard)
            }}
            onKeyDown={(event) => {
              if (event.key === 'Enter') commit()
              else if (event.key === 'Escape') {
                if (typed !== null) event.stopPropagation()
                setTyped(null)
                setWrong(false)
                setTelling(null)
              } else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
                event.preventDefault()
                setTyped(null)
                stepTo(value + (event.key === 'ArrowUp' ? 1 : -1) * step * factorOf(event))
              }
            }}
            onKeyUp={(event) => {
              if (event.key === 'ArrowUp' || event.key === 'ArrowDown') stepping.end()
            }}
            {...(typed === null ? drag : {})}
            className="w-full min-w-0 cursor-ew-resize bg-transparent px-1.5 py-0.5 text-right focus:cursor-text"
          />
          {unit && <span className="pr-1.5 text-note text-ink-soft">{unit}</span>}
        </span>
      </Popover.Anchor>
      <Popover.Portal>
        <Popover.Content
          id={toldId}
          role="status"
          side="top"
          align="end"
          sideOffset={4}
          onOpenAutoFocus={(event) => event.preventDefault()}
          onCloseAutoFocus={(event) => event.preventDefault()}
          className="z-50 max-w-64 rounded-md border border-rule-strong bg-raised px-2 py-1 text-code shadow-md"
        >
          {told}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
