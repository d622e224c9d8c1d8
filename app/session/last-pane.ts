/** The pane that somebody last pressed or typed in; what opens over the screen, as menus do, leaves it. */
let last: string | null = null

/** Follows presses, keys and drops. Gives what ends it. */
export function followPanes(): () => void {
  const follow = (event: Event): void => {
    const pane = (event.target as Element | null)?.closest?.<HTMLElement>('[data-pane]')?.dataset.pane
    if (pane !== undefined) last = pane
  }
  const events = ['pointerdown', 'keydown', 'drop'] as const
  for (const event of events) window.addEventListener(event, follow, true)
  return () => {
    for (const event of events) window.removeEventListener(event, follow, true)
    last = null
  }
}

export const lastPane = (): string | null => last
