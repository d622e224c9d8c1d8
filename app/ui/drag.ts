import type { PointerSensorProps } from '@dnd-kit/core'
import { PointerSensor, useSensor, useSensors } from '@dnd-kit/core'

/** Scrolls while dragging only right at the edge: sooner, cells slide away under the pointer that aims at them. */
export const AT_THE_EDGE = { threshold: { x: 0.04, y: 0.06 } }

/** Calls back when all that is under way is drawn, half a second on at the latest. */
function onceDrawn(call: () => void): void {
  // Not every browser has idle callbacks.
  if ('requestIdleCallback' in window) window.requestIdleCallback(call, { timeout: 500 })
  else setTimeout(call, 50)
}

/**
 * Drops where the pointer was let go. dnd-kit drops on what its last drawn frame was over, and the move that begins a
 * drag moves nothing yet; on a busy machine, where many moves come as one, drops would be lost. So the release counts
 * as a move, and the drop waits until that is drawn.
 */
class ReleasePointerSensor extends PointerSensor {
  constructor(props: PointerSensorProps) {
    let carried = true
    let release: PointerEvent | null = null
    document.addEventListener('pointerup', (event) => (release = event), { capture: true, once: true })
    super({
      ...props,
      onAbort: (id) => {
        carried = false
        props.onAbort(id)
      },
      onEnd: () => {
        if (!carried) return props.onEnd()
        if (release) props.onMove({ x: release.clientX, y: release.clientY })
        onceDrawn(() => props.onEnd())
      },
    })
  }
}

/** What picks things up: the pointer, once it has moved a little (a click stays a click). */
export function useDragSensors() {
  return useSensors(useSensor(ReleasePointerSensor, { activationConstraint: { distance: 6 } }))
}
