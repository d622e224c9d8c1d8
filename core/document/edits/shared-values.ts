import type { Dial, Drive, MaterialDocument } from '../document'
import type { DialShape, DialTarget } from './dials'
import { makeDial, unbind, writeTarget } from './dials'

/** A colour or a number of a project, by its name. */
export interface SharedValue {
  readonly name: string
  /** "#rrggbb", or a number. */
  readonly value: string | number
}

/** Where dials that follow a project stand on the board. */
const SECTION = 'Of the project'

const kindOf = ({ value }: SharedValue): 'colour' | 'number' => (typeof value === 'string' ? 'colour' : 'number')

/** Whether what has this shape can follow a value. */
export const canFollow = ({ kind }: Pick<DialShape, 'kind'>, value: SharedValue): boolean => kind === kindOf(value)

/** The names that dials of a document follow. */
export const followedNames = ({ dials }: Pick<MaterialDocument, 'dials'>): string[] => [
  ...new Set(dials.flatMap(({ shared }) => shared ?? [])),
]

/** Sets all dials that follow a value, within what each takes. */
export function takeShared(draft: MaterialDocument, shared: SharedValue): void {
  for (const dial of draft.dials) if (dial.shared === shared.name) setDial(dial, shared)
}

function setDial(dial: Dial, shared: SharedValue): void {
  const { value } = shared
  if (!canFollow(dial, shared)) return
  dial.value =
    typeof value === 'string' ? value : Math.min(dial.max ?? Infinity, Math.max(dial.min ?? -Infinity, value))
}

/** Has a setting follow a value of the project: by the dial that does so already, or by a new one. */
export function followShared(
  draft: MaterialDocument,
  shared: SharedValue,
  shape: DialShape,
  target: DialTarget,
  whole?: unknown,
): void {
  const known = draft.dials.find((dial) => dial.shared === shared.name && canFollow(dial, shared))
  writeTarget(draft, target, shared.value, whole)
  if (known) {
    unbind(draft, target)
    known.drives.push({ ...target, scale: 1, offset: 0 } as Drive)
    return
  }
  // Its range is the setting's business: the project's number goes through as it is.
  const { kind, unit } = shape
  const id = makeDial(draft, shared.name, { kind, unit }, target, shared.value)
  const dial = draft.dials.find((one) => one.id === id)!
  dial.shared = shared.name
  dial.section = SECTION
}
