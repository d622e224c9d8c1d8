import { Gauge } from 'lucide-react'
import type { DialShape, DialTarget, DialValue } from '#core/document/edits/dials'
import { canDrive, driverOf } from '#core/document/edits/dials'
import { Menu, MenuItem, MenuRule } from '../../ui/menu'
import { canFollow } from '#core/document/edits/shared-values'
import { useActions, useDocument, useMaterial } from '../../session/material'

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
  const { values } = useMaterial()
  const driver = driverOf(document, target)
  const followable = values.filter((one) => canFollow(shape, one) && driver?.dial.shared !== one.name)
  const others = document.dials.filter((dial) => dial.id !== driver?.dial.id && canDrive(dial, shape))
  return (
    <Menu
      align="start"
      trigger={
        <button
          type="button"
          aria-label={driver ? `${label}: driven by the dial ${driver.dial.label}` : `${label}: make a dial`}
          title={driver ? `Driven by the dial “${driver.dial.label}”` : 'Make a dial of this'}
          className={`grid size-5 shrink-0 place-items-center rounded ${
            driver
              ? 'text-accent-ink'
              : 'text-ink-soft opacity-45 group-hover/param:opacity-100 hover:opacity-100 focus-visible:opacity-100'
          }`}
        >
          <Gauge size={13} aria-hidden />
        </button>
      }
    >
      {driver ? (
        <>
          <MenuItem onSelect={() => actions.setView({ tab: 'dials' })}>
            Show “{driver.dial.label}” on the dials board
          </MenuItem>
          <MenuItem onSelect={() => actions.freeTarget(target, value, whole)}>
            Free it from “{driver.dial.label}”
          </MenuItem>
        </>
      ) : (
        <MenuItem onSelect={() => actions.makeDial(label, shape, target, value, whole)}>Make a dial</MenuItem>
      )}
      {followable.length > 0 && <MenuRule />}
      {followable.map((one) => (
        <MenuItem key={one.name} onSelect={() => actions.followShared(one, shape, target, whole)}>
          Follow “{one.name}” of the project, {String(one.value)}
        </MenuItem>
      ))}
      {others.length > 0 && <MenuRule />}
      {others.map((dial) => (
        <MenuItem key={dial.id} onSelect={() => actions.bindDial(dial.id, shape, target, value, whole)}>
          Bind to “{dial.label}”
        </MenuItem>
      ))}
    </Menu>
  )
}
