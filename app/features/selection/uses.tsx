import type { Use } from '#core/document/edits/nodes'
import { usesOf } from '#core/document/edits/nodes'
import { useActions, useDocument } from '../../session/material'
import { readerInWords } from '../../session/words/source-words'

/** Places that read something; each leads there. */
export function UseLinks({ uses }: { uses: readonly Use[] }) {
  const document = useDocument()
  const actions = useActions()
  const go = (use: Use): void => {
    if (use.kind === 'input') actions.selectNodes([use.node])
    else if (use.kind === 'cell') actions.select({ kind: 'cell', layer: use.layer, channel: use.channel })
    else actions.select({ kind: 'mask', layer: use.layer, entry: use.entry })
  }
  return (
    <ul className="mt-1 flex flex-wrap gap-1.5">
      {uses.map((use) => (
        <li key={JSON.stringify(use)}>
          <button
            type="button"
            onClick={() => go(use)}
            className="rounded border border-rule-strong bg-raised px-1.5 py-0.5 hover:border-accent"
          >
            {readerInWords(document, use)}
          </button>
        </li>
      ))}
    </ul>
  )
}

/** What reads a node: inputs, cells, masks; each leads there. */
export function Uses({ node }: { node: string }) {
  const document = useDocument()
  const actions = useActions()
  const uses = usesOf(document, node)
  const dials = document.dials.filter((dial) => dial.drives.some((drive) => 'node' in drive && drive.node === node))
  return (
    <section aria-label="Drives" className="border-t border-rule pt-2">
      <h3 className="font-semibold">Drives</h3>
      {uses.length === 0 && <p className="mt-1 text-ink-soft">Nothing yet. Draw a wire from one of its ports.</p>}
      <UseLinks uses={uses} />
      {dials.length > 0 && (
        <p className="mt-1.5 text-ink-soft">
          Driven by{' '}
          {dials.map((dial, i) => (
            <span key={dial.id}>
              {i > 0 && ', '}
              <button
                type="button"
                className="text-accent-ink underline"
                onClick={() => actions.setView({ tab: 'dials' })}
              >
                {dial.label}
              </button>
            </span>
          ))}
        </p>
      )}
    </section>
  )
}
