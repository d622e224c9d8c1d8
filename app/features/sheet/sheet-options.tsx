import { Columns3, FoldVertical, UnfoldVertical } from 'lucide-react'
import { Popover } from 'radix-ui'
import type { Channel } from '#core/document/channels'
import { allLayers } from '#core/document/document'
import { Button } from '../../ui/button'
import { Segments } from '../../ui/choice'
import { SortableList } from '../../ui/sortable-list'
import { useActions, useUndialled, useView } from '../../session/material'
import type { SheetView } from '../../session/view'
import { SHEET_SIZES } from '../../session/view'
import { shownChannels } from './sheet-layout'

/** How large rows are, which channels have a column and in which order, and whether groups are folded. */
export function SheetOptions({ channels }: { channels: readonly Channel[] }) {
  const actions = useActions()
  const document = useUndialled()
  const view = useView((one) => one.sheet)
  const folded = useView((one) => one.folded)
  const change = (next: Partial<SheetView>): void => actions.setView({ sheet: { ...view, ...next } })
  const ordered = shownChannels(channels, { ...view, hidden: [], onlyUsed: false }, () => true)
  const groups = [...allLayers(document.layers)].filter(({ kind }) => kind === 'group').map(({ id }) => id)
  const allFolded = groups.every((id) => folded.has(id))
  const move = (from: number, to: number): void => {
    const order = ordered.map(({ id }) => id)
    order.splice(to, 0, ...order.splice(from, 1))
    change({ order })
  }
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button aria-label="Rows and columns" title="Size of rows, columns, folding" className="px-1.5">
          <Columns3 size={14} aria-hidden />
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          aria-label="Rows and columns"
          className="z-40 flex w-84 flex-col gap-3 rounded-lg border border-rule-strong bg-panel p-3 shadow-lg"
        >
          <div className="flex items-center justify-between gap-2">
            <span>Swatches</span>
            <Segments
              label="Size of swatches"
              value={view.size}
              options={SHEET_SIZES.map((value) => ({ value, word: value }))}
              onChange={(size) => change({ size })}
            />
          </div>
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="accent-accent"
              checked={view.onlyUsed}
              onChange={(event) => change({ onlyUsed: event.target.checked })}
            />
            Only channels that a layer writes
          </label>
          {groups.length > 0 && (
            <Button
              onClick={() => actions.setView({ folded: new Set(allFolded ? [] : groups) })}
              className="self-start"
            >
              {allFolded ? <UnfoldVertical size={13} aria-hidden /> : <FoldVertical size={13} aria-hidden />}
              {allFolded ? 'Unfold all groups' : 'Fold all groups'}
            </Button>
          )}
          <SortableList
            label="Columns, from the left"
            rows={ordered.map(({ id, title }) => ({
              key: id,
              word: title,
              shows: (
                <label className="flex min-w-0 flex-1 items-center gap-2">
                  <input
                    type="checkbox"
                    className="accent-accent"
                    checked={!view.hidden.includes(id)}
                    onChange={(event) =>
                      change({
                        hidden: event.target.checked ? view.hidden.filter((one) => one !== id) : [...view.hidden, id],
                      })
                    }
                  />
                  <span className="truncate">{title}</span>
                </label>
              ),
            }))}
            onMove={move}
          />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
