import { useStore } from 'zustand'
import type { EditClash } from '#core/document/edits/merge'
import { Button } from '../../ui/button'
import { counted } from '../../ui/words'
import { clashPlace, clashValue } from './clash-words'
import { useMaterial } from '../material'

/** What to do where saving found somebody else's edits at the same place, or where the server refuses an edit. */
export function SaveNotice() {
  const { control } = useMaterial()
  const { save } = useStore(control.store)
  if (save === 'clash') return <Clashes />
  return save === 'refused' ? <Refused /> : null
}

const NOTICE = 'border-b border-rule-strong bg-raised px-4 py-2'

/** Places that another tab changed too, one by one, with both values. Everything else is merged already. */
function Clashes() {
  const { control } = useMaterial()
  const { clashes } = useStore(control.store)
  return (
    <div role="alert" className={`${NOTICE} flex flex-col gap-2`}>
      <div className="flex items-center gap-3">
        <span className="flex-1">
          ▲ Another tab changed {counted(clashes.length, 'place')} that you changed too. Choose which value stands; all
          other edits are kept. If you take theirs, yours is kept as a named state.
        </span>
        <Button variant="main" onClick={() => control.choose('mine')}>
          Keep all of mine
        </Button>
        <Button onClick={() => control.choose('theirs')}>Take all of theirs</Button>
      </div>
      <ul className="flex max-h-40 flex-col gap-1 overflow-auto">
        {clashes.map((clash) => (
          <ClashRow key={clash.key} clash={clash} />
        ))}
      </ul>
    </div>
  )
}

function ClashRow({ clash }: { clash: EditClash }) {
  const { control } = useMaterial()
  const { document, base } = useStore(control.store)
  const place = clashPlace(clash.path, document, base)
  return (
    <li className="grid grid-cols-[minmax(10rem,1fr)_minmax(0,auto)_minmax(0,auto)] items-center gap-3">
      <span className="truncate">{place}</span>
      {(['mine', 'theirs'] as const).map((choice) => (
        <Button
          key={choice}
          onClick={() => control.choose(choice, clash.key)}
          aria-label={`${choice === 'mine' ? 'Keep mine' : 'Take theirs'}: ${place}`}
        >
          <span>{choice === 'mine' ? 'Mine' : 'Theirs'}</span>
          <span className="max-w-60 truncate font-mono">{clashValue(clash[choice])}</span>
        </Button>
      ))}
    </li>
  )
}

/** An edit that the server does not take: what it says, and the ways on. */
function Refused() {
  const { control } = useMaterial()
  const { problem, pending } = useStore(control.store)
  const exportEdits = (): void => {
    const { document: material, pending: edits, head } = control.store.getState()
    const link = window.document.createElement('a')
    link.href = URL.createObjectURL(
      new Blob([JSON.stringify({ material, revision: head, edits }, null, 2)], { type: 'application/json' }),
    )
    link.download = `${material.name.replace(/[^\p{L}\p{N}._-]+/gu, '-') || 'material'}-unsaved.json`
    link.click()
    URL.revokeObjectURL(link.href)
  }
  return (
    <div role="alert" className={`${NOTICE} flex items-center gap-3`}>
      <span className="flex-1">
        ■ {counted(pending.length, 'edit')} could not be saved: {problem}
      </span>
      <Button variant="main" onClick={() => control.sendAgain()}>
        Try again
      </Button>
      <Button onClick={exportEdits} title="The material as it is here, and the edits, as a JSON file">
        Export
      </Button>
      <Button onClick={() => control.dropMine()} title="Go back to what is saved">
        Drop
      </Button>
    </div>
  )
}
