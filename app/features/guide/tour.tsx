import type { ReactNode } from 'react'
import { useEffect, useLayoutEffect, useState } from 'react'
import { Link } from 'react-router'
import { Button, buttonClasses } from '../../ui/button'
import { useDocument, useMaterial, useView } from '../../session/material'
import type { ScreenName } from '../../session/screens'
import { SCREENS } from '../../session/screens'
import { STEPS } from './steps'

const KEY = 'amber-grist-guided'

/** A walk through a first material, in place; skipped or finished, it does not come again by itself. */
export function Tour({ here }: { here: ScreenName }) {
  const { id, actions, view } = useMaterial()
  const document = useDocument()
  const asked = useView((view) => view.guide)
  const at = useView((view) => view.guideStep)
  const start = useView((view) => view.guideStart) ?? document

  useEffect(() => {
    let known = true
    try {
      known = localStorage.getItem(KEY) !== null
    } catch {
      // Without storage the guide would come at every visit; it is a command too.
    }
    // On its way from one screen to the next it goes on.
    if (!known && here === STEPS[0]!.here && !view.getState().guide) actions.walk()
  }, [actions, view, here])
  const step = asked ? STEPS[at] : undefined
  const close = (): void => {
    try {
      localStorage.setItem(KEY, 'yes')
    } catch {
      // See above.
    }
    actions.setView({ guide: false, guideStep: 0, guideStart: null })
  }
  const go = (next: number): void => {
    if (next >= STEPS.length) return close()
    actions.setView({ guideStep: next, guideStart: document })
  }
  const done = step?.done?.(document, start, here) ?? false
  // A step that has just been done gives way to the next.
  useEffect(() => {
    if (done) go(at + 1)
  })

  if (!step) return null
  const elsewhere = SCREENS.find(({ name }) => name === step.here && name !== here)
  return (
    <Card key={at} index={at} beside={elsewhere ? 'screens' : step.at} onClose={close}>
      {elsewhere ? (
        <Link to={`/documents/${id}${elsewhere.path}`} className={buttonClasses('main')}>
          Go on in {elsewhere.word}
        </Link>
      ) : (
        <>
          {STEPS[at - 1]?.here === here && <Button onClick={() => go(at - 1)}>Back</Button>}
          <Button variant="main" onClick={() => go(at + 1)}>
            {at === STEPS.length - 1 ? 'Done' : 'Next'}
          </Button>
        </>
      )}
    </Card>
  )
}

/** Step `index`, beside the element that `beside` names by its data-guide, with `children` to go on by. */
function Card({
  index,
  beside,
  onClose,
  children,
}: {
  index: number
  beside: string
  onClose(): void
  children: ReactNode
}) {
  const step = STEPS[index]!
  const [place, setPlace] = useState<{ left: number; top: number } | null>(null)
  useLayoutEffect(() => {
    const follow = (): void => {
      const box = document.querySelector(`[data-guide=${beside}]`)?.getBoundingClientRect()
      if (!box) return
      // Beside a pane, under a button; always wholly on screen.
      const small = box.width < 200
      const left = small ? box.right - 320 : box.left + Math.min(40, box.width / 6)
      const top = small ? box.bottom + 8 : box.top + box.height / 2 - 40
      setPlace({
        left: Math.min(window.innerWidth - 336, Math.max(8, left)),
        top: Math.min(window.innerHeight - 190, Math.max(8, top)),
      })
    }
    follow()
    window.addEventListener('resize', follow)
    return () => window.removeEventListener('resize', follow)
  }, [beside])
  return (
    <aside
      role="dialog"
      aria-label={`First material, ${index + 1} of ${STEPS.length}: ${step.title}`}
      className="fixed z-30 w-80 rounded-lg border-2 border-accent bg-raised p-3 shadow-xl"
      style={place ?? { left: 24, top: 120 }}
      onKeyDown={(event) => event.key === 'Escape' && onClose()}
    >
      <p className="font-mono text-[11px] text-ink-soft">
        First material · {index + 1} of {STEPS.length}
      </p>
      <h2 className="mt-0.5 font-semibold">{step.title}</h2>
      <p className="mt-1">{step.text}</p>
      <div className="mt-3 flex items-center gap-2">
        <Button variant="quiet" onClick={onClose}>
          Skip
        </Button>
        <span className="flex-1" />
        {children}
      </div>
    </aside>
  )
}
