import { useEffect, useLayoutEffect, useState } from 'react'
import type { MaterialDocument } from '#core/graph/document'
import { allLayers } from '#core/graph/document'
import { Button } from '../../ui/button'
import { useActions, useDocument, useView } from '../material/material'

const KEY = 'amber-grist-guided'

interface Step {
  /** The element it stands beside, by data-guide. */
  readonly at: string
  readonly title: string
  readonly text: string
  /** Whether the step has been done, so that the guide goes on by itself. */
  readonly done?: (document: MaterialDocument, start: MaterialDocument) => boolean
}

const count = (document: MaterialDocument): number => [...allLayers(document.layers)].length

const STEPS: readonly Step[] = [
  {
    at: 'layers',
    title: 'Layers by channels',
    text: 'Each row is a layer, the topmost first; each column is a channel. A cell is what that layer puts into that channel. The row of pictures on top is what they come to.',
  },
  {
    at: 'add',
    title: 'Add a layer',
    text: 'Press Add and take a layer of a plain colour. It goes on top of what is chosen.',
    done: (document, start) => count(document) > count(start),
  },
  {
    at: 'feeds',
    title: 'Feed it',
    text: 'Choose the round mask of the new layer, then press New node and take Noise. Here are the nodes behind whatever is chosen; draw wires from port to port.',
    done: (document, start) => Object.keys(document.nodes).length > Object.keys(start.nodes).length,
  },
  {
    at: 'chosen',
    title: 'Tune it',
    text: 'What is chosen is set here. Drag a name or number sideways, type 1/3, double-click for the default. The gauge beside a setting makes a dial of it.',
  },
  {
    at: 'stage',
    title: 'Look',
    text: 'Turn the shape, point to read values, choose single channels, flat or repeated. Every change is saved and can be undone; Ctrl K finds everything, ? lists the shortcuts.',
  },
]

/** A few steps in place for who is here the first time; skipped or finished, it does not come again by itself. */
export function FirstRunGuide() {
  const actions = useActions()
  const document = useDocument()
  const asked = useView((view) => view.guide)
  const [at, setAt] = useState<number | null>(null)
  const [start, setStart] = useState(document)

  useEffect(() => {
    let known = true
    try {
      known = localStorage.getItem(KEY) !== null
    } catch {
      // Without storage the guide would come at every visit; it is a command too.
    }
    if (!known) actions.setView({ guide: true })
  }, [actions])
  const step = asked ? (at ?? 0) : null
  // A step that has just been done gives way to the next.
  if (step !== null && STEPS[step]!.done?.(document, start)) setAt(step + 1)

  const close = (): void => {
    try {
      localStorage.setItem(KEY, 'yes')
    } catch {
      // See above.
    }
    setAt(null)
    actions.setView({ guide: false })
  }
  if (step === null) return null
  const go = (next: number): void => {
    if (next >= STEPS.length) return close()
    setStart(document)
    setAt(next)
  }
  return <Card key={step} index={step} onBack={() => go(step - 1)} onNext={() => go(step + 1)} onClose={close} />
}

function Card({ index, onBack, onNext, onClose }: { index: number; onBack(): void; onNext(): void; onClose(): void }) {
  const step = STEPS[index]!
  const [place, setPlace] = useState<{ left: number; top: number } | null>(null)
  useLayoutEffect(() => {
    const follow = (): void => {
      const box = document.querySelector(`[data-guide=${step.at}]`)?.getBoundingClientRect()
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
  }, [step.at])
  return (
    <aside
      role="dialog"
      aria-label={`First steps, ${index + 1} of ${STEPS.length}: ${step.title}`}
      className="fixed z-30 w-80 rounded-lg border-2 border-accent bg-raised p-3 shadow-xl"
      style={place ?? { left: 24, top: 120 }}
      onKeyDown={(event) => event.key === 'Escape' && onClose()}
    >
      <p className="font-mono text-[11px] text-ink-soft">
        First steps · {index + 1} of {STEPS.length}
      </p>
      <h2 className="mt-0.5 font-semibold">{step.title}</h2>
      <p className="mt-1">{step.text}</p>
      <div className="mt-3 flex items-center gap-2">
        <Button look="quiet" onClick={onClose}>
          Skip
        </Button>
        <span className="flex-1" />
        {index > 0 && <Button onClick={onBack}>Back</Button>}
        <Button look="main" onClick={onNext}>
          {index === STEPS.length - 1 ? 'Done' : 'Next'}
        </Button>
      </div>
    </aside>
  )
}
