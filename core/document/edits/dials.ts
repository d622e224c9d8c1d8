import type { Dial, Drive, MaterialDocument, Source } from '../document'
import { findLayer, findPlain } from './layers'
import { freeId, idFrom } from './names'

/** What a dial can set. */
export type DialTarget =
  | { node: string; field: string }
  | { node: string; part: 'effect'; field: 'amount' }
  | { layer: string; field: 'amount' }
  | { layer: string; channel: string; field: 'amount' | 'value' | 'blend' }
  | { layer: string; entry: number; field: 'amount' | 'value' | 'mode' | 'invert' }

export type DialValue = Dial['value']

const targetKey = (target: DialTarget): string =>
  JSON.stringify([
    'node' in target ? ['part' in target ? target.part : 'node', target.node] : ['layer', target.layer],
    'channel' in target ? target.channel : 'entry' in target ? target.entry : null,
    target.field,
  ])

export const sameTarget = (a: DialTarget, b: DialTarget): boolean => targetKey(a) === targetKey(b)

/** The dial that sets a target, and how; the last one counts, as it is written last. */
export function driverOf(document: MaterialDocument, target: DialTarget): { dial: Dial; drive: Drive } | null {
  for (const dial of [...document.dials].reverse())
    for (const drive of [...dial.drives].reverse()) if (sameTarget(drive, target)) return { dial, drive }
  return null
}

/** What a dial of this kind looks like: kind, unit, range, words. */
export interface DialShape {
  readonly kind: Dial['kind']
  readonly unit?: string
  readonly min?: number
  readonly max?: number
  readonly options?: readonly string[]
}

/** Makes a dial that drives one target and stands where the target stands now. Gives its id. */
export function makeDial(
  draft: MaterialDocument,
  label: string,
  shape: DialShape,
  target: DialTarget,
  value: DialValue,
): string {
  const id = freeId(idFrom(label, 'dial'), (one) => draft.dials.some((dial) => dial.id === one))
  const { kind, unit, min, max, options } = shape
  const number = typeof value === 'number'
  draft.dials.push({
    id,
    label,
    kind,
    ...(unit ? { unit } : {}),
    // A value typed beyond the usual range widens the dial.
    ...(min === undefined ? {} : { min: number ? Math.min(min, value) : min }),
    ...(max === undefined ? {} : { max: number ? Math.max(max, value) : max }),
    ...(options ? { options: [...options] } : {}),
    default: value,
    value,
    drives: [{ ...target, scale: 1, offset: 0 } as Drive],
  })
  return id
}

const NUMERIC: readonly string[] = ['number', 'whole', 'seed']

/** Whether a dial can drive what has this shape: numbers drive numbers, words the same words. */
export const canDrive = (dial: Dial, shape: DialShape): boolean =>
  NUMERIC.includes(dial.kind)
    ? NUMERIC.includes(shape.kind)
    : dial.kind === shape.kind && (dial.options ?? []).every((option) => shape.options?.includes(option) ?? true)

/**
 * Binds one more target; the whole turn of the dial stays within `shape`'s range, as wide as that allows while a number keeps
 * the value it has now (it goes over the whole range where it cannot). What drove the target before no longer does.
 */
export function bindDial(
  draft: MaterialDocument,
  id: string,
  target: DialTarget,
  value: DialValue,
  shape: DialShape,
): void {
  unbind(draft, target)
  const dial = draft.dials.find((one) => one.id === id)
  if (!dial) return
  const drive = { ...target, scale: 1, offset: 0 } as Drive
  if (typeof value === 'number' && typeof dial.value === 'number') {
    drive.scale = dial.kind === 'seed' ? 1 : widest(dial, dial.value, value, shape)
    drive.offset = rounded(value - dial.value * drive.scale)
    // A dial that moves nothing is worse than a value that moves once.
    if (drive.scale === 0) setDriveEnds(dial, drive, shape.min!, shape.max!)
  }
  dial.drives.push(drive)
}

/** The steepest scale at which a drive that gives `value` where the dial stands at `at` stays within the range; 0 where none does. */
function widest(dial: Dial, at: number, value: number, { min, max }: DialShape): number {
  const [least, greatest] = dialEnds(dial)
  if (min === undefined || max === undefined || greatest <= least) return 1
  const [low, high] = [Math.min(min, value), Math.max(max, value)]
  /** How steep it may be where `room` is left to the way down and to the way up. */
  const steepest = (down: number, up: number): number =>
    Math.min(at > least ? down / (at - least) : Infinity, at < greatest ? up / (greatest - at) : Infinity)
  const [down, up] = [value - low, high - value]
  // Where the value can't move that way, the dial turns it the other way round.
  return rounded(steepest(down, up) || -steepest(up, down)) || 0
}

/** The ends of a dial's turn. */
export const dialEnds = ({ min = 0, max = 1 }: Dial): readonly [number, number] => [min, max]

/** What a drive gives at both ends of its dial. */
export function driveEnds(dial: Dial, { scale, offset }: Drive): readonly [number, number] {
  const [min, max] = dialEnds(dial)
  return [rounded(min * scale + offset), rounded(max * scale + offset)]
}

/** Makes a drive give `from` at the least and `to` at the greatest value of its dial. */
export function setDriveEnds(dial: Dial, drive: Drive, from: number, to: number): void {
  const [min, max] = dialEnds(dial)
  if (max > min) drive.scale = rounded((to - from) / (max - min))
  drive.offset = rounded(from - min * drive.scale)
}

/** Frees a target; the caller writes the value that it had. */
export function unbind(draft: MaterialDocument, target: DialTarget): void {
  for (const dial of draft.dials)
    if (dial.drives.some((drive) => sameTarget(drive, target)))
      dial.drives = dial.drives.filter((drive) => !sameTarget(drive, target))
}

/** The dial value at which a drive gives `value`, within the dial's range. */
export function dialValueFor(dial: Dial, drive: Drive, value: DialValue): DialValue {
  if (typeof value !== 'number' || drive.scale === 0) return typeof value === 'number' ? dial.value : value
  const wanted = rounded((value - drive.offset) / drive.scale)
  const whole = dial.kind === 'number' ? wanted : Math.round(wanted)
  return Math.min(dial.max ?? Infinity, Math.max(dial.min ?? -Infinity, whole))
}

/** Without the dust of binary fractions: twelve significant digits. */
const rounded = (value: number): number => Number(value.toPrecision(12))

/** Puts a dial before another, in its section; to the end where `before` is null. */
export function moveDial(draft: MaterialDocument, id: string, before: string | null, section: string): void {
  const from = draft.dials.findIndex((dial) => dial.id === id)
  if (from < 0 || before === id) return
  const [dial] = draft.dials.splice(from, 1)
  if (section === '') delete dial!.section
  else dial!.section = section
  const to = before === null ? -1 : draft.dials.findIndex((one) => one.id === before)
  draft.dials.splice(to < 0 ? draft.dials.length : to, 0, dial!)
}

/**
 * Gives a target a value: through the dial that drives it, if one does, else directly. `whole` is the parameter that a
 * part of belongs to, as it stands, where `field` names a part ("cells.0"): it is written out first.
 */
export function setTarget(draft: MaterialDocument, target: DialTarget, value: unknown, whole?: unknown): void {
  const driven = driverOf(draft, target)
  if (driven) {
    const dial = draft.dials.find((one) => one.id === driven.dial.id)!
    dial.value = dialValueFor(dial, driven.drive, value as DialValue)
    return
  }
  writeTarget(draft, target, value, whole)
}

/** Gives a target a value, whatever drives it. */
export function writeTarget(draft: MaterialDocument, target: DialTarget, value: unknown, whole?: unknown): void {
  if ('node' in target) {
    const node = draft.nodes[target.node]
    if (!node) return
    if (!('part' in target)) node.params = { ...node.params, ...writtenAt(target.field.split('.'), value, whole) }
    else if (value === 1) delete node.amount
    else node.amount = value as number
    return
  }
  const layer = findLayer(draft, target.layer)
  if (!layer) return
  const held =
    'entry' in target
      ? layer.mask[target.entry]
      : 'channel' in target
        ? findPlain(draft, target.layer)?.cells[target.channel]
        : layer
  if (!held) return
  if (target.field === 'value') (held as { source: Source }).source = { value: value as number | string }
  else Object.assign(held, { [target.field]: value })
}

/** A parameter by name with `value` at the path inside it. */
function writtenAt([name, ...rest]: readonly string[], value: unknown, whole: unknown): Record<string, unknown> {
  if (rest.length === 0) return { [name!]: value }
  const copy = JSON.parse(JSON.stringify(whole)) as Record<string, unknown>
  const last = rest.at(-1)!
  const holder = rest.slice(0, -1).reduce<Record<string, unknown>>((at, key) => at[key] as never, copy)
  holder[last] = value
  return { [name!]: copy }
}
