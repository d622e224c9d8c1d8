import type { DialShape, DialTarget, DialValue } from '#core/document/edits/dials'
import { bindDial, makeDial, setTarget, unbind, writeTarget } from '#core/document/edits/dials'
import type { SharedValue } from '#core/document/edits/shared-values'
import { followShared } from '#core/document/edits/shared-values'
import { nodeTitle } from '../words/source-words'
import type { ActionContext } from './context'

/** Parameters, and the dials that drive them. */
export function dialActions({ control, notify, edit, document, nameOf }: ActionContext) {
  /** A setting with whose it is: "Radius of Blur". */
  const named = (label: string, target: DialTarget): string =>
    `${label} of ${'node' in target ? nodeTitle(document(), target.node) : nameOf(target.layer)}`
  return {
    /** Shows a change while it goes on; `drop` makes it one edit. */
    drag: control.drag,
    drop: control.drop,

    dragTarget(label: string, target: DialTarget, value: unknown, whole?: unknown): void {
      control.drag(named(label, target), (draft) => setTarget(draft, target, value, whole))
    },
    setTarget(label: string, target: DialTarget, value: unknown, whole?: unknown): void {
      edit(named(label, target), (draft) => setTarget(draft, target, value, whole))
    },
    makeDial(label: string, shape: DialShape, target: DialTarget, value: DialValue, whole?: unknown): void {
      edit(`Make dial ${label}`, (draft) => {
        writeTarget(draft, target, value, whole)
        makeDial(draft, label, shape, target, value)
      })
      notify(`“${label}” is on the dials board now.`)
    },
    bindDial(dial: string, shape: DialShape, target: DialTarget, value: DialValue, whole?: unknown): void {
      edit('Bind to dial', (draft) => {
        writeTarget(draft, target, value, whole)
        bindDial(draft, dial, target, value, shape)
      })
    },
    /** Has a setting follow a value of the project. */
    followShared(value: SharedValue, shape: DialShape, target: DialTarget, whole?: unknown): void {
      edit(`Follow ${value.name}`, (draft) => followShared(draft, value, shape, target, whole))
      notify(`It follows “${value.name}” of the project now, by a dial on the dials board.`)
    },
    freeTarget(target: DialTarget, value: DialValue, whole?: unknown): void {
      edit('Free from dial', (draft) => {
        unbind(draft, target)
        writeTarget(draft, target, value, whole)
      })
    },
  }
}
