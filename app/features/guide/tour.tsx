import { autoUpdate, flip, offset, shift, useFloating } from '@floating-ui/react-dom'
import type { ReactNode } from 'react'
import { useCallback, useEffect, useState } from 'react'
import { Link } from 'react-router'
import { Button, buttonClasses } from '../../ui/button'
import { useDocument, useMaterial, useView } from '../../session/material'
import type { ScreenName } from '../../session/screens'
import { SCREENS } from '../../session/screens'
import type { Step } from './steps'
import { STEPS } from './steps'

const KEY = 'amber-grist-guided'

/** A walk through a first material, in place; skipped or finished, it does not come again by itself. `newestRun` is the newest bake. */
export function Tour({ here, newestRun = null }: { here: ScreenName; newestRun?: string | null }) {
  const { id, actions, view } = useMaterial()
  const document = useDocument()
  const asked = useView((view) => view.guide)
  const at = useView((view) => view.guideStep)
  const start = useView((view) => view.guideStart) ?? document
  const [began, setBegan] = useState({ at, newestRun })
  if (began.at !== at) setBegan({ at, newestRun })

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
  const done = step?.done?.({ document, start, here, asked: newestRun !== began.newestRun }) ?? false
  // A step that has just been done gives way to the next.
  useEffect(() => {
    if (done) go(at + 1)
  })

  if (!step) return null
  const elsewhere = SCREENS.find(({ name }) => name === step.here && name !== here)
  return (
    <Card key={at} index={at} step={elsewhere ? { ...step, at: 'screens', side: 'bottom' } : step} onClose={close}>
      {elsewhere ? (
        <Link to={`/documents/${id}${elsewhere.path}`} className={buttonClasses('main')}>
          Go on in {elsewhere.word}
        </Link>
      ) : (
        <>
          {STEPS[at - 1]?.here === here && <Button onClick={() => go(at - 1)}>Back</Button>}
          <Button variant={step.done ? 'plain' : 'main'} onClick={() => go(at + 1)}>
            {at === STEPS.length - 1 ? 'Done' : step.done ? 'Pass by' : 'Next'}
          </Button>
        </>
      )}
    </Card>
  )
}

/** Pixels between a card and what it stands beside, and the window's edge. */
const GAP = 8

/** Step `index`, beside what it speaks of and wholly in the window, with `children` to go on by. F6 leads to it. */
function Card({ index, step, onClose, children }: { index: number; step: Step; onClose(): void; children: ReactNode }) {
  const [card, setCard] = useState<HTMLElement | null>(null)
  const [anchor, setAnchor] = useState<Element | null>(null)
  const { floatingStyles } = useFloating({
    elements: { reference: anchor, floating: card },
    strategy: 'fixed',
    placement: step.side === 'top' || step.side === 'bottom' ? step.side : `${step.side}-end`,
    middleware: [
      offset(GAP),
      flip({ padding: GAP, fallbackAxisSideDirection: 'end' }),
      shift({ padding: GAP, crossAxis: true }),
    ],
    whileElementsMounted: autoUpdate,
  })
  const attach = useCallback(
    (element: HTMLElement | null) => {
      setCard(element)
      if (element) setAnchor(document.querySelector(`[data-guide=${step.at}]`))
    },
    [step.at],
  )
  return (
    <aside
      ref={attach}
      data-pane-stop
      tabIndex={-1}
      role="dialog"
      aria-label={`First material, ${index + 1} of ${STEPS.length}: ${step.title}`}
      className="z-30 w-80 rounded-lg border-2 border-accent bg-raised p-3 shadow-xl"
      style={floatingStyles}
      onKeyDown={(event) => event.key === 'Escape' && onClose()}
    >
      <p className="font-mono text-note text-ink-soft">
        First material · {index + 1} of {STEPS.length}
      </p>
      <h2 className="mt-0.5 font-semibold">{step.title}</h2>
      <p className="mt-1">{step.text}</p>
      {step.done && <p className="mt-1 text-ink-soft">The walk goes on by itself once this is done.</p>}
      <div className="mt-3 flex items-center gap-2">
        <Button variant="quiet" onClick={onClose}>
          Skip the walk
        </Button>
        <span className="flex-1" />
        {children}
      </div>
    </aside>
  )
}
