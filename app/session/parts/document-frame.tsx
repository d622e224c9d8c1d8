import { Redo2, Search, Undo2 } from 'lucide-react'
import type { ReactNode } from 'react'
import { Suspense, useEffect, useLayoutEffect, useSyncExternalStore } from 'react'
import { Group, Panel, useGroupRef } from 'react-resizable-panels'
import { NavLink } from 'react-router'
import { useStore } from 'zustand'
import { z } from 'zod'
import { recall, remember } from '../../ui/browser-storage'
import { Button } from '../../ui/button'
import { Divider } from '../../ui/divider'
import { TopBar } from '../../ui/top-bar'
import { counted } from '../../ui/words'
import type { Editing } from '../document/document-store'
import { useUndialled, useMaterial } from '../material'
import { followPanes } from '../last-pane'
import { PaneNotice } from './pane-notice'
import { SaveNotice } from '../document/save-notice'
import type { ScreenName } from '../screens'
import { SCREENS } from '../screens'

/** The bar over every screen of a material: where we are, which screen, and the finder. */
export function DocumentBar({
  project,
  here,
  children,
  aside,
}: {
  project: { id: string; name: string }
  here: ScreenName
  children?: ReactNode
  aside?: ReactNode
}) {
  const { id, actions } = useMaterial()
  const { name } = useUndialled()
  return (
    <TopBar
      place={[{ name: 'Projects', to: '/' }, { name: project.name, to: `/projects/${project.id}` }, { name }]}
      aside={
        <>
          <Button onClick={() => actions.openPalette({ kind: 'commands' })} title="Ctrl K">
            <Search size={13} aria-hidden /> <span className="@max-[70rem]:sr-only">Find or do…</span>
          </Button>
          {aside}
        </>
      }
    >
      {children}
      <nav aria-label="Screens of this material" className="flex h-full items-stretch gap-1" data-guide="screens">
        {SCREENS.map(({ name: screen, word, path }) => (
          <NavLink
            key={screen}
            to={`/documents/${id}${path}`}
            end
            aria-current={screen === here ? 'page' : undefined}
            className={`flex items-center border-b-2 px-3 pt-0.5 ${screen === here ? 'border-accent font-semibold text-ink' : 'border-transparent text-ink-soft hover:text-ink'}`}
          >
            {word}
          </NavLink>
        ))}
      </nav>
    </TopBar>
  )
}

/** Undo and redo of the document. */
export function StepButtons() {
  const { control, actions } = useMaterial()
  const undo = useStore(control.store, control.undoable)
  const redo = useStore(control.store, control.redoable)
  return <StepPair undo={undo} redo={redo} onUndo={actions.undo} onRedo={actions.redo} />
}

/** Undo and redo of anything: `undo` and `redo` say what would be. */
export function StepPair({
  undo,
  redo,
  onUndo,
  onRedo,
}: {
  undo: string | null
  redo: string | null
  onUndo(): void
  onRedo(): void
}) {
  return (
    <span className="flex gap-1">
      <StepButton kind="undo" label={undo} onStep={onUndo} />
      <StepButton kind="redo" label={redo} onStep={onRedo} />
    </span>
  )
}

function StepButton({
  kind,
  label,
  onStep,
}: {
  kind: 'undo' | 'redo'
  /** What would be undone or redone; null where there is nothing. */
  label: string | null
  onStep(): void
}) {
  const word = kind === 'undo' ? 'Undo' : 'Redo'
  const Icon = kind === 'undo' ? Undo2 : Redo2
  return (
    <Button
      variant="quiet"
      disabled={label === null}
      onClick={onStep}
      aria-label={label === null ? word : `${word} ${label}`}
      title={
        label === null ? `Nothing to ${kind}` : `${word} ${label} (${kind === 'undo' ? 'Ctrl Z' : 'Ctrl Shift Z'})`
      }
    >
      <Icon size={16} aria-hidden />
    </Button>
  )
}

function SavedWord() {
  const { control } = useMaterial()
  return (
    <span role="status" aria-label="Saved" className="shrink-0 font-mono">
      {useStore(control.store, savedInWords)}
    </span>
  )
}

function savedInWords({ save, head, pending, problem }: Editing): string {
  const waiting = counted(pending.length, 'edit')
  if (save === 'saved') return `● saved, revision ${head}`
  if (save === 'saving') return '◌ saving'
  if (save === 'away') return `▲ cannot reach the server: ${waiting} kept here, sent when it is back`
  if (save === 'clash') return `▲ ${waiting} not saved: another tab changed the same place`
  return `■ not saved: ${problem ?? ''}`
}

const never = (): (() => void) => () => {}

/** What a browser says that gives pages of this address no memory that threads share. */
function OneThreadWord() {
  const isOne = useSyncExternalStore(
    never,
    () => !crossOriginIsolated,
    () => false,
  )
  if (!isOne) return null
  return (
    <span
      className="shrink-0 text-ink"
      title="Browsers let pages of other machines use several cores over HTTPS only. Everything works, more slowly."
    >
      ▲ one core only: this address is not HTTPS
    </span>
  )
}

/** The line at the foot of a screen: how edits are saved, and what a screen has besides. */
export function StatusLine({ first, children }: { first?: ReactNode; children?: ReactNode }) {
  return (
    <footer className="flex h-7 shrink-0 items-center gap-4 border-t border-rule bg-panel px-3 text-note text-ink-soft">
      <SavedWord />
      <OneThreadWord />
      {first}
      <span className="flex-1" />
      {children}
    </footer>
  )
}

/** One of the four panes of a screen: what it shows, its share of the height, and the least it may have, in pixels. */
export interface Pane {
  readonly shows: ReactNode
  readonly percent: number
  readonly minPixels: number
}

const layout = z.record(z.string(), z.number().min(0).max(100))

/** Sizes of a group's panes as this browser last had them for the document: set once the page is there, as a server knows none. */
function useLayout(word: string) {
  const { id } = useMaterial()
  const groupRef = useGroupRef()
  const key = `amber-grist-panes:${id}:${word}`
  useLayoutEffect(() => {
    const known = recall(key, layout)
    const now = groupRef.current?.getLayout() ?? {}
    // Panes may have changed since.
    if (known && sameNames(known, now)) groupRef.current?.setLayout(known)
  }, [key, groupRef])
  return {
    groupRef,
    onLayoutChanged: (sizes: Record<string, number>, { isUserInteraction }: { isUserInteraction: boolean }): void => {
      if (isUserInteraction) remember(key, sizes)
    },
  }
}

const sameNames = (a: object, b: object): boolean => Object.keys(a).sort().join() === Object.keys(b).sort().join()

/** A screen of a material: the bar, two columns of two panes each, and what lies over and under them. */
export function DocumentScreen({
  bar,
  left,
  right,
  children,
}: {
  bar: ReactNode
  /** What the column is called, its share of the width and least pixels, and its panes from the top. */
  left: { word: string; percent: number; minPixels: number; panes: readonly [Pane, Pane] }
  right: { word: string; panes: readonly [Pane, Pane] }
  /** The status bar, and what opens over the screen. */
  children: ReactNode
}) {
  const { name } = useUndialled()
  const layout = useLayout(`columns of ${left.word}`)
  useEffect(followPanes, [])
  return (
    <div className="flex h-screen flex-col overflow-hidden">
      {bar}
      <SaveNotice />
      <main className="min-h-0 flex-1">
        <h1 className="sr-only">{name}</h1>
        <Group orientation="horizontal" className="h-full" resizeTargetMinimumSize={GRAB} {...layout}>
          <Panel id="left" defaultSize={`${left.percent}%`} minSize={left.minPixels}>
            <Column side="left" {...left} />
          </Panel>
          <Divider word={`Width of the ${left.word}`} across />
          <Panel id="right" minSize={320}>
            <Column side="right" {...right} />
          </Panel>
        </Group>
      </main>
      {children}
    </div>
  )
}

/** A pane, and what is told of what happened in it. Each comes alive in a task of its own, after the workers have begun. */
function PaneFrame({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div data-pane={name} className="relative h-full">
      <Suspense>{children}</Suspense>
      <PaneNotice pane={name} />
    </div>
  )
}

function Column({
  side,
  word,
  panes: [above, below],
}: {
  side: 'left' | 'right'
  word: string
  panes: readonly [Pane, Pane]
}) {
  const layout = useLayout(word)
  return (
    <Group orientation="vertical" resizeTargetMinimumSize={GRAB} {...layout}>
      <Panel id="above" defaultSize={`${above.percent}%`} minSize={above.minPixels}>
        <PaneFrame name={`${side} above`}>{above.shows}</PaneFrame>
      </Panel>
      <Divider word={`Height of the ${word}`} across={false} />
      <Panel id="below" defaultSize={`${below.percent}%`} minSize={below.minPixels}>
        <PaneFrame name={`${side} below`}>{below.shows}</PaneFrame>
      </Panel>
    </Group>
  )
}

/** Pixels across within which a separator is grabbed, by a finger and by a mouse. */
const GRAB = { coarse: 28, fine: 16 }
