import { Gauge } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import type { DialShape, DialTarget, DialValue } from '#core/edits/dials'
import { canDrive, driverOf } from '#core/edits/dials'
import { useActions, useDocument } from '../material/material'

const ITEM = 'cursor-default rounded px-2 py-1 data-highlighted:bg-ground'

/** Beside a parameter: the dial that drives it, or a way to make one. */
export function DialMark({
  label,
  target,
  shape,
  value,
  whole,
}: {
  label: string
  target: DialTarget
  shape: DialShape
  value: DialValue
  whole?: unknown
}) {
  const actions = useActions()
  const document = useDocument()
  const driver = driverOf(document, target)
  const others = document.dials.filter((dial) => dial.id !== driver?.dial.id && canDrive(dial, shape))
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label={driver ? `${label}: driven by the dial ${driver.dial.label}` : `${label}: make a dial`}
        title={driver ? `Driven by the dial “${driver.dial.label}”` : 'Make a dial of this'}
        className={`grid size-5 shrink-0 place-items-center rounded ${
          driver ? 'text-accent-ink' : 'text-ink-soft opacity-0 group-hover/param:opacity-100 focus-visible:opacity-100'
        }`}
      >
        <Gauge size={13} aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={2}
          className="z-40 max-h-80 overflow-auto rounded-md border border-rule-strong bg-raised p-1 shadow-lg"
        >
          {driver ? (
            <>
              <DropdownMenu.Item className={ITEM} onSelect={() => actions.setView({ tab: 'dials' })}>
                Show “{driver.dial.label}” on the dials board
              </DropdownMenu.Item>
              <DropdownMenu.Item className={ITEM} onSelect={() => actions.freeTarget(target, value, whole)}>
                Free it from “{driver.dial.label}”
              </DropdownMenu.Item>
            </>
          ) : (
            <DropdownMenu.Item className={ITEM} onSelect={() => actions.makeDial(label, shape, target, value, whole)}>
              Make a dial
            </DropdownMenu.Item>
          )}
          {others.length > 0 && <DropdownMenu.Separator className="my-1 h-px bg-rule" />}
          {others.map((dial) => (
            <DropdownMenu.Item
              key={dial.id}
              className={ITEM}
              onSelect={() => actions.bindDial(dial.id, target, value, whole)}
            >
              Bind to “{dial.label}”
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
