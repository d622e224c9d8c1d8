import { Lightbulb } from 'lucide-react'
import type { Lamp } from '../../session/view'
import { ARROWS } from '../../ui/arrows'

type Place = Lamp['at']

/** A place on the map of the sky, held within its rim. */
export function onMap(x: number, y: number): Place {
  const far = Math.max(1, Math.hypot(x, y))
  return [x / far, y / far]
}

/** How far arrows move the lamp. */
const STEP = 0.05

/** A map of the sky on which the lamp is moved: its middle is overhead, its rim the horizon. */
export function LampPad({ at, flat, onMove }: { at: Place; flat: boolean; onMove(at: Place): void }) {
  const follow = (event: React.PointerEvent<HTMLElement>): void => {
    const { left, top, width, height } = event.currentTarget.getBoundingClientRect()
    onMove(onMap(((event.clientX - left) / width) * 2 - 1, 1 - ((event.clientY - top) / height) * 2))
  }
  const [right, up] = at.map((v) => `${Math.round(v * 100)} %`)
  return (
    <div
      role="application"
      aria-label={`Lamp, ${right} right and ${up} ${flat ? 'up' : 'away'}; arrows move it`}
      tabIndex={0}
      className="relative size-24 shrink-0 touch-none rounded-full border border-rule-strong bg-ground"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        follow(event)
      }}
      onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && follow(event)}
      onKeyDown={(event) => {
        const by = ARROWS[event.key]
        if (!by) return
        event.preventDefault()
        onMove(onMap(at[0] + by[0] * STEP, at[1] + by[1] * STEP))
      }}
    >
      <span aria-hidden className="absolute top-1/2 left-1/2 size-1/2 -translate-1/2 rounded-full border border-rule" />
      <Lightbulb
        size={14}
        aria-hidden
        className="absolute -translate-1/2 fill-accent text-accent"
        style={{ left: `${50 + at[0] * 50}%`, top: `${50 - at[1] * 50}%` }}
      />
    </div>
  )
}
