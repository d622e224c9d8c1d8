import type { DialTarget, DialValue } from '#core/document/edits/dials'
import { driverOf } from '#core/document/edits/dials'
import type { Dial } from '#core/document/document'
import { useActions, useDocument } from '../../session/material'

/** A field of the document that an editor writes: through its dial where one drives it. */
export interface Bound {
  readonly target: DialTarget
  readonly dial: Dial | null
  drag(value: unknown): void
  drop(): void
  set(value: unknown): void
}

/** `whole` is the parameter that a part belongs to, as it stands, where the target names a part of it. */
export function useTarget(label: string, target: DialTarget, whole?: unknown): Bound {
  const actions = useActions()
  const document = useDocument()
  return {
    target,
    dial: driverOf(document, target)?.dial ?? null,
    drag: (value) => actions.dragTarget(label, target, value, whole),
    drop: actions.drop,
    set: (value) => actions.setTarget(label, target, value, whole),
  }
}

export const isDialValue = (value: unknown): value is DialValue =>
  typeof value === 'number' || typeof value === 'string' || typeof value === 'boolean'
