import { Columns2, Undo } from 'lucide-react'
import { useCallback, useEffect, useState } from 'react'
import { useStore } from 'zustand'
import type { MaterialDocument } from '#core/document/document'
import { ask, askJson } from '../../session/ask'
import { documentAt } from '../../session/revisions'
import type { DocumentState } from '../../contracts/document-state'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { NameDialog } from '../../ui/name-dialog'
import { StatePicture } from './state-picture'
import { turnInWords } from '../../session/words/step-words'
import { agoInWords } from '../../ui/words'
import { useActions, useMaterial, useView } from '../../session/material'

/** Saved revisions: named ones and the newest besides; each can be compared with, returned to, named. */
export function StatesPane() {
  const { id, control, view } = useMaterial()
  const actions = useActions()
  const head = useStore(control.store, (editing) => editing.head)
  const saved = useStore(control.store, (editing) => editing.save === 'saved')
  const compared = useView((one) => one.compared)
  const versus = useView((one) => one.versus)
  const [states, setStates] = useState<readonly DocumentState[] | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [naming, setNaming] = useState<DocumentState | null>(null)
  const [now, setNow] = useState(0)
  const [namedOnly, setNamedOnly] = useState(false)
  const address = `/documents/${id}/states`

  const show = useCallback((result: readonly DocumentState[] | string): void => {
    setProblem(typeof result === 'string' ? result : null)
    if (typeof result === 'string') return
    setStates(result)
    setNow(Date.now())
  }, [])
  useEffect(() => {
    if (!saved) return
    let wanted = true
    void statesFrom(ask(address)).then((result) => wanted && show(result))
    return () => {
      wanted = false
    }
  }, [address, head, saved, show])

  const name = (state: DocumentState, given: string | null): void =>
    void statesFrom(askJson(address, 'POST', { revision: state.revision, name: given })).then(show)
  const fetchAt = async (state: DocumentState): Promise<MaterialDocument | null> => {
    try {
      return await documentAt(id, state.revision)
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error))
    }
    return null
  }
  const compare = async (state: DocumentState): Promise<void> => {
    if (compared?.name === titleOf(state)) return view.setState({ compared: null, versus: null })
    const document = await fetchAt(state)
    if (document) view.setState({ compared: { name: titleOf(state), document } })
  }
  /** Puts a state into a half of the split; null is the document as it is now, which stands right. */
  const setHalf = async (half: 'compared' | 'versus', revision: string): Promise<void> => {
    const state = states?.find((one) => String(one.revision) === revision)
    if (!state) return view.setState({ versus: null })
    const document = await fetchAt(state)
    if (document) view.setState({ [half]: { name: titleOf(state), document } })
  }
  const goBack = async (state: DocumentState): Promise<void> => {
    const document = await fetchAt(state)
    if (!document) return
    control.replace(`Return to ${titleOf(state)}`, document)
    view.setState({ selection: null, selectedNodes: [], compared: null, versus: null })
    actions.notify(`Returned to ${titleOf(state)}. Undo brings back what was.`)
  }
  const shown = namedOnly ? states?.filter((state) => state.name !== null) : states
  // Moving nodes about makes revisions too, which are no states.
  const current = states?.[0]
  return (
    <section aria-label="States" className="flex flex-col gap-2 p-3">
      <div className="flex items-center gap-2">
        <p className="min-w-0 flex-1 text-ink-soft">Every edit is a state. Name the ones you want to find again.</p>
        <label className="flex shrink-0 items-center gap-1">
          <input
            type="checkbox"
            checked={namedOnly}
            onChange={(event) => setNamedOnly(event.target.checked)}
            className="accent-accent"
          />
          named only
        </label>
        <Button variant="main" disabled={!current} onClick={() => current && setNaming(current)}>
          Name this state
        </Button>
      </div>
      {compared && states && (
        <p className="flex items-center gap-2">
          Side by side
          <Choice
            label="Left of the seam"
            value={revisionOf(states, compared.name)}
            options={states.map((state) => ({ value: String(state.revision), word: titleOf(state) }))}
            onChange={(revision) => void setHalf('compared', revision)}
            className="flex-1"
          />
          and
          <Choice
            label="Right of the seam"
            value={versus ? revisionOf(states, versus.name) : NOW}
            options={[
              { value: NOW, word: 'now' },
              ...states.map((state) => ({ value: String(state.revision), word: titleOf(state) })),
            ]}
            onChange={(revision) => void setHalf('versus', revision)}
            className="flex-1"
          />
        </p>
      )}
      {problem && <p role="alert">■ {problem}</p>}
      {!states && !problem && <div className="h-24 animate-pulse rounded bg-ground" />}
      <ol className="flex flex-col">
        {shown?.length === 0 && <li className="py-1 text-ink-soft">No state has a name yet.</li>}
        {shown?.map((state) => (
          <li
            key={state.revision}
            className="flex items-center gap-2 border-b border-rule py-1"
            aria-current={state === current ? 'true' : undefined}
          >
            <StatePicture revision={state.revision} />
            <span className="w-9 shrink-0 text-right font-mono text-note text-ink-soft">{state.revision}</span>
            <span className="min-w-0 flex-1 truncate">
              {state.name ? (
                <>
                  <span className="font-semibold">{state.name}</span>{' '}
                  <span className="text-ink-soft">· {ledTo(state)}</span>
                </>
              ) : (
                ledTo(state)
              )}
            </span>
            <span className="shrink-0 text-note text-ink-soft">
              {state === current ? 'now' : agoInWords(state.at, now)}
            </span>
            <Button variant="quiet" onClick={() => setNaming(state)} aria-label={`Name ${titleOf(state)}`}>
              {state.name ? 'Rename' : 'Name'}
            </Button>
            <Button
              variant="quiet"
              aria-pressed={compared?.name === titleOf(state)}
              aria-label={`Compare with ${titleOf(state)}`}
              title="Side by side on the stage"
              onClick={() => void compare(state)}
              className={compared?.name === titleOf(state) ? 'border-accent' : ''}
            >
              <Columns2 size={13} aria-hidden /> Compare
            </Button>
            <Button
              variant="quiet"
              disabled={state === current}
              aria-label={`Return to ${titleOf(state)}`}
              onClick={() => void goBack(state)}
            >
              <Undo size={13} aria-hidden /> Return
            </Button>
          </li>
        ))}
      </ol>
      {naming && (
        <NameDialog
          title={naming.name ? 'Rename the state' : 'Name the state'}
          about={`Revision ${naming.revision}: ${ledTo(naming)}`}
          name={naming.name ?? ''}
          action="Keep the name"
          onName={(given) => name(naming, given)}
          onClose={() => setNaming(null)}
        />
      )}
    </section>
  )
}

/** The choice that is no state. */
const NOW = ':now'

const titleOf = (state: DocumentState): string => state.name ?? `Revision ${state.revision}`

const revisionOf = (states: readonly DocumentState[], title: string): string =>
  String(states.find((state) => titleOf(state) === title)?.revision ?? '')

/** What led to a state, in words. */
const ledTo = ({ kind, label }: DocumentState): string =>
  kind === 'undo' || kind === 'redo' ? turnInWords(kind, label) : label

/** The list an answer carries, or what went wrong, in words. */
async function statesFrom(answer: Promise<Response>): Promise<readonly DocumentState[] | string> {
  try {
    const response = await answer
    const json: unknown = await response.json()
    return response.ok ? (json as DocumentState[]) : (json as { error: string }).error
  } catch {
    return 'Cannot reach the server; the list will load when it is back.'
  }
}
