import type { Dial, MaterialDocument } from '../document'
import { freeId, idFrom } from './names'

type Value = Dial['value']

/** Keeps all dials as they stand under a name; a preset of that name takes these values. Gives its id. */
export function savePreset(draft: MaterialDocument, name: string): string {
  const known = Object.entries(draft.presets).find(([, preset]) => preset.name === name)?.[0]
  const id = known ?? freeId(idFrom(name, 'preset'), (one) => Object.hasOwn(draft.presets, one))
  draft.presets[id] = { name, values: Object.fromEntries(draft.dials.map((dial) => [dial.id, dial.value])) }
  return id
}

/** Turns dials to the values of a preset, within what each takes now; dials that it does not know, or that follow the project, stay. */
export function applyPreset(draft: MaterialDocument, id: string): void {
  const values = Object.hasOwn(draft.presets, id) ? draft.presets[id]!.values : {}
  for (const dial of draft.dials) {
    const value = Object.hasOwn(values, dial.id) ? fitting(dial, values[dial.id]!) : null
    if (value !== null && dial.shared === undefined) dial.value = value
  }
}

/** The preset that all dials stand at; null where none is. */
export const presetNow = ({ presets, dials }: MaterialDocument): string | null =>
  Object.entries(presets).find(
    ([, { values }]) =>
      dials.length > 0 && dials.every(({ id, value, shared }) => shared !== undefined || values[id] === value),
  )?.[0] ?? null

/** A value as a dial can take it; null where it is of another kind. */
function fitting({ kind, min = -Infinity, max = Infinity, options, value: now }: Dial, value: Value): Value | null {
  if (typeof value !== typeof now) return null
  if (typeof value === 'number') return Math.min(max, Math.max(min, kind === 'number' ? value : Math.round(value)))
  return kind === 'choice' && options && !options.includes(String(value)) ? null : value
}

/** Greatest seed that is rolled: easy to read and to type. */
const SEEDS = 10000

/**
 * Turns dials to values at random: numbers within their range, seeds, choices, switches. Colours, images, numbers without a
 * range, and what follows the project stay. `random` gives 0 ≤ v < 1.
 */
export function randomiseDials(draft: MaterialDocument, random: () => number): void {
  for (const dial of draft.dials) {
    const { kind, min, max, options, shared } = dial
    if (shared !== undefined) continue
    if (kind === 'seed') dial.value = Math.floor(random() * SEEDS)
    else if (kind === 'switch') dial.value = random() < 0.5
    else if (kind === 'choice' && options?.length) dial.value = options[Math.floor(random() * options.length)]!
    else if ((kind === 'number' || kind === 'whole') && min !== undefined && max !== undefined) {
      const value = min + random() * (max - min)
      dial.value = kind === 'whole' ? Math.round(value) : Number(value.toPrecision(3))
      dial.value = Math.min(max, Math.max(min, dial.value))
    }
  }
}
