import { Redo2, Undo2 } from 'lucide-react'
import { useEffect } from 'react'
import type { OpenDocument } from '../../server/documents.server'
import { Button } from '../../ui/button'
import { TopBar } from '../../ui/top-bar'
import { counted } from '../../ui/words'
import type { Editing, EditingControl } from '../editing/document-store'
import { useEditing } from '../editing/use-editing'
import { FlatStage } from '../stage/flat-stage'
import { usePicture } from '../stage/use-picture'
import { DialBoard } from './dial-board'

const WIDTH = 1024

/** A material: its base colour seen flat, and its dials. Every change saves itself and can be undone. */
export function DocumentView({ opened, project }: { opened: OpenDocument; project: { id: string; name: string } }) {
  const [editing, control] = useEditing(opened.id, opened)
  const { document } = editing
  const state = usePicture(document, 'colour', WIDTH)
  const picture = state.kind === 'shown' ? state.picture : null
  useUndoKeys(control)
  return (
    <div className="flex h-screen flex-col">
      <TopBar
        place={[
          { name: 'Projects', to: '/' },
          { name: project.name, to: `/projects/${project.id}` },
          { name: document.name },
        ]}
      >
        <span className="flex gap-1">
          <StepButton kind="undo" editing={editing} control={control} />
          <StepButton kind="redo" editing={editing} control={control} />
        </span>
      </TopBar>
      <Clash editing={editing} control={control} />
      <main className="flex min-h-0 flex-1">
        <h1 className="sr-only">{document.name}, base colour</h1>
        <FlatStage state={state} name={document.name} />
        <DialBoard document={document} control={control} />
      </main>
      <footer className="flex h-6 shrink-0 items-center gap-4 border-t border-rule bg-panel px-4 font-mono text-[11px] text-ink-soft">
        <span role="status">{savedInWords(editing)}</span>
        <span className="flex-1" />
        {picture && (
          <>
            <span>{state.kind === 'shown' && state.sharp ? '● sharp' : '◌ working'}</span>
            <span>
              {picture.width} × {picture.height}
            </span>
            <span>
              {picture.evaluated} steps evaluated, {picture.reused} kept
            </span>
            <span>{Math.round(picture.milliseconds)} ms</span>
          </>
        )}
      </footer>
    </div>
  )
}

function savedInWords({ save, head, pending, problem }: Editing): string {
  const waiting = counted(pending.length, 'edit')
  if (save === 'saved') return `● saved, revision ${head}`
  if (save === 'saving') return '◌ saving'
  if (save === 'away') return `▲ the server is not there: ${waiting} kept here, sent when it is back`
  if (save === 'clash') return `▲ ${waiting} not saved: another tab changed the same part`
  return `■ not saved: ${problem ?? ''}`
}

function StepButton({ kind, editing, control }: { kind: 'undo' | 'redo'; editing: Editing; control: EditingControl }) {
  const next = editing[kind].at(-1)
  const word = kind === 'undo' ? 'Undo' : 'Redo'
  const Icon = kind === 'undo' ? Undo2 : Redo2
  return (
    <Button
      look="quiet"
      disabled={!next}
      onClick={control[kind]}
      aria-label={next ? `${word} ${next.label}` : word}
      title={next ? `${word} ${next.label} (${kind === 'undo' ? 'Ctrl Z' : 'Ctrl Shift Z'})` : `Nothing to ${kind}`}
    >
      <Icon size={16} aria-hidden />
    </Button>
  )
}

function Clash({ editing: { save, pending, problem }, control }: { editing: Editing; control: EditingControl }) {
  if (save !== 'clash' && save !== 'refused') return null
  return (
    <div role="alert" className="flex items-center gap-3 border-b border-rule-strong bg-raised px-4 py-2">
      {save === 'clash' ? (
        <>
          <span>
            ▲ Another tab changed the same part of this material while {counted(pending.length, 'edit')} here{' '}
            {pending.length === 1 ? 'was' : 'were'} not saved yet. Whichever you choose, the other stays in the history.
          </span>
          <Button look="main" onClick={() => control.keepMine()}>
            Keep mine on top
          </Button>
          <Button onClick={() => control.dropMine()}>Take the other</Button>
        </>
      ) : (
        <>
          <span>■ {problem}</span>
          <Button onClick={() => control.dropMine()}>Go back to what is saved</Button>
        </>
      )}
    </div>
  )
}

function useUndoKeys(control: EditingControl): void {
  useEffect(() => {
    const press = (event: KeyboardEvent): void => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return
      event.preventDefault()
      if (event.shiftKey) control.redo()
      else control.undo()
    }
    window.addEventListener('keydown', press)
    return () => window.removeEventListener('keydown', press)
  }, [control])
}
