import { Trash2 } from 'lucide-react'
import { tapName, usesOfTap } from '#core/document/edits/taps'
import { RenameInput } from '../../ui/rename-input'
import { ToolButton } from '../../ui/tool-button'
import { Swatch } from '../../session/parts/swatch'
import { useActions, useUndialled, useView } from '../../session/material'
import { UseLinks } from './uses'

/** Results that have names: what they look like, where they are read; renamed and taken away. */
export function NamedResults() {
  const document = useUndialled()
  const ids = Object.keys(document.taps)
  return (
    <section aria-label="Named results" className="border-t border-rule pt-2">
      <h3 className="font-semibold">Named results</h3>
      {ids.length === 0 && (
        <p className="mt-1 text-ink-soft">
          None yet. Press T on a cell, a mask or a node: what it gives gets a name and can be read anywhere.
        </p>
      )}
      <ul className="mt-1 flex flex-col gap-1.5">
        {ids.map((id) => (
          <NamedResult key={id} id={id} />
        ))}
      </ul>
    </section>
  )
}

function NamedResult({ id }: { id: string }) {
  const actions = useActions()
  const document = useUndialled()
  const renaming = useView((view) => view.renamingTap === id)
  const name = tapName(document, id)
  const uses = usesOfTap(document, id)
  return (
    <li className="flex items-center gap-2 rounded border border-rule bg-panel px-1.5 py-1">
      <Swatch output={{ kind: 'tap', tap: id }} className="size-7 shrink-0 rounded-sm" />
      <div className="min-w-0 flex-1">
        {renaming ? (
          <RenameInput
            label="Name of the result"
            name={name}
            onName={(next) => actions.renameTap(id, next)}
            onEnd={() => actions.setView({ renamingTap: null })}
            className="w-full px-1"
          />
        ) : (
          <button
            type="button"
            title="Press to rename"
            onClick={() => actions.setView({ renamingTap: id })}
            className="max-w-full cursor-text truncate rounded border border-transparent px-1 hover:border-rule-strong"
          >
            {name}
          </button>
        )}
        {uses.length === 0 ? (
          <p className="px-1 text-note text-ink-soft">not read anywhere</p>
        ) : (
          <UseLinks uses={uses} />
        )}
      </div>
      <ToolButton icon={Trash2} word={`Delete the name ${name}`} onClick={() => actions.unnameResult(id)} />
    </li>
  )
}
