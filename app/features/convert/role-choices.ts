import { CHANNELS, fixedChannel } from '#core/document/channels'
import type { SetSlot } from '#core/document/document-of-set'
import type { FileRole, MapSetFile } from '../../contracts/map-set'

/** Shown first: what a file holds as a whole. */
const WHOLE = [
  ...CHANNELS.filter(({ type }) => type === 'colour').map(({ id, title }) => ({ value: id, word: title })),
  { value: 'specular', word: 'Specular' },
  { value: 'normal-up', word: 'Normal, Y up' },
  { value: 'normal-down', word: 'Normal, Y down' },
  { value: 'object-normal', word: 'Normal, in the space of a model' },
]
/** Normals of which two channels are held. */
export const PAIRS = [
  { value: 'normal-pair-up', word: 'Normal of two channels, Y up' },
  { value: 'normal-pair-down', word: 'Normal of two channels, Y down' },
] as const
export const NOTHING = 'nothing'
export const APART = 'apart'
const GLOSS = 'gloss'
/** Leads back from one grey each to what R, G and B hold together. */
export const TOGETHER = 'together'

/** What R, G and B of a colour file may hold together. */
const WHOLE_CHOICES = [
  ...WHOLE,
  ...PAIRS,
  { value: APART, word: 'One grey each' },
  { value: NOTHING, word: 'Not used' },
] as const

/** The same by the words of the set: where it tells its surface by specular colours, its colour is diffuse. */
export const wholeChoices = (hasSpecular: boolean): { value: string; word: string }[] =>
  WHOLE_CHOICES.map((one) => (one.value === 'colour' && hasSpecular ? { ...one, word: 'Diffuse' } : one))

/** What one plane may hold. */
export const GREY_CHOICES = [
  ...CHANNELS.filter(({ type }) => type === 'grey').map(({ id, title }) => ({ value: id, word: title })),
  { value: GLOSS, word: 'Gloss' },
  { value: NOTHING, word: 'Not used' },
] as const

const slot = (channel: string | null, component = 0, inverted = false): SetSlot => ({ channel, component, inverted })
const isSame = (slots: readonly SetSlot[]): boolean =>
  slots.length >= 3 &&
  slots[0]!.channel !== null &&
  slots.slice(0, 3).every(({ channel }) => channel === slots[0]!.channel)

/** What R, G and B hold together, as one of WHOLE_CHOICES. */
export function wholeOf({ slots }: Pick<MapSetFile, 'slots'>): string {
  if (isSame(slots)) {
    const { channel } = slots[0]!
    return fixedChannel(channel!)?.type === 'normal' ? `normal-${slots[1]!.inverted ? 'down' : 'up'}` : channel!
  }
  const [x, y, z] = slots
  if (x?.channel === 'normal' && y?.channel === 'normal' && (z?.channel ?? null) === null)
    return `normal-pair-${y.inverted ? 'down' : 'up'}`
  return slots.length > 0 ? APART : NOTHING
}

/** The role with R, G and B as chosen; alpha stays as it is where both can be. */
export function withWhole(
  file: Pick<MapSetFile, 'slots' | 'transfer' | 'float' | 'channels'>,
  value: string,
): FileRole {
  const alpha = file.slots[3] ? [file.slots[3]] : []
  if (value === NOTHING) return { transfer: file.transfer, slots: [] }
  if (value === APART) return { transfer: 'raw', slots: [slot(null), slot(null), slot(null), ...alpha] }
  if (PAIRS.some((pair) => pair.value === value)) {
    const pair = [slot('normal', 0), slot('normal', 1, value === 'normal-pair-down')]
    return { transfer: 'raw', slots: file.channels === 2 ? pair : [...pair, slot(null), ...alpha] }
  }
  if (value.startsWith('normal-')) {
    const down = value === 'normal-down'
    return { transfer: 'raw', slots: [slot('normal', 0), slot('normal', 1, down), slot('normal', 2), ...alpha] }
  }
  return {
    transfer: file.float || value === 'object-normal' ? 'raw' : 'srgb',
    slots: [slot(value, 0), slot(value, 1), slot(value, 2), ...alpha],
  }
}

/** What a plane holds, as one of GREY_CHOICES. */
export function greyOf(given: SetSlot | undefined): string {
  if (!given || given.channel === null) return NOTHING
  return given.channel === 'roughness' && given.inverted ? GLOSS : given.channel
}

/** The role with one plane as chosen. */
export function withGrey(
  { slots, transfer, channels }: Pick<MapSetFile, 'slots' | 'transfer' | 'channels'>,
  index: number,
  value: string,
): FileRole {
  const next = Array.from({ length: Math.max(slots.length, index + 1) }, (_, i) => slots[i] ?? slot(null))
  next[index] = value === NOTHING ? slot(null) : value === GLOSS ? slot('roughness', 0, true) : slot(value)
  while (next.length > 0 && next.at(-1)!.channel === null) next.pop()
  // What is one of several planes is read as that plane, and not as what the whole file is stored as.
  while (channels > 2 && next.length < 3) next.push(slot(null))
  return { transfer, slots: next }
}
