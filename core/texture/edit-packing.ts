import { GristError } from '../errors'
import type { Channel } from '../document/channels'
import { CHANNELS } from '../document/channels'
import type { FilePlan, Packing, SlotPlan } from './packing'
import type { BlockKind } from '../kernels/blocks/blocks'
import type { BlockQuality } from '../kernels/blocks/blocks'
import { depthOf, writtenFormat } from './format-registry'
import { filesOf, parsePacking, slotOf, BLOCK_SLOTS } from './packing'

/** Edits of a packing's files. Each gives new files that are valid again; what cannot be is a typed error. */
export type Files = readonly FilePlan[]

const BLACK: SlotPlan = { constant: 0 }
const OPAQUE: SlotPlan = { constant: 1 }

/** A packing as it is edited: a file for every channel is written out as files of their own. */
export function writtenOut(packing: Packing, channels: readonly Channel[]): Packing {
  if (!packing.everyChannel) return packing
  const own = filesOf({ files: [], everyChannel: packing.everyChannel }, channels) as FilePlan[]
  return { ...packing, everyChannel: undefined, files: [...packing.files, ...own] }
}

/**
 * Puts something into a slot (R is 0, A is 3), or takes it out: an emptied A goes away, an emptied colour holds 0, and a
 * file whose G and B are both empty becomes grey again. The encoding follows what the file holds.
 */
export function setSlot(
  files: Files,
  map: string,
  index: number,
  slot: SlotPlan | null,
  channels: readonly Channel[],
): FilePlan[] {
  return changed(files, map, channels, (file) => {
    const slots = [...file.slots] as SlotPlan[]
    if (slot !== null) {
      const length = index === 0 ? 1 : index < 3 ? 3 : 4
      while (slots.length < length) slots.push(slots.length === 3 ? OPAQUE : BLACK)
      slots[index] = slot
    } else if (index === 3) slots.length = Math.min(3, slots.length)
    else if (index < slots.length) {
      slots[index] = BLACK
      const colourless = slots.length === 3 && [1, 2].every((i) => isEmpty(slots[i]!))
      if (index > 0 && colourless && writtenFormat(file.format).write.grey) slots.length = 1
    }
    return { ...file, slots: slots as FilePlan['slots'] }
  })
}

const isEmpty = (slot: SlotPlan): boolean => 'constant' in slot && slot.constant === 0

/** Lays a channel into a file: one of three planes fills R, G and B where it is put on R, a grey one takes one slot. */
export function putChannel(
  files: Files,
  map: string,
  index: number,
  channel: Channel,
  channels: readonly Channel[],
): FilePlan[] {
  const at = (component: number): SlotPlan => ({ channel: channel.id, component, invert: false })
  if (channel.type === 'grey' || index !== 0)
    return setSlot(files, map, index, at(channel.type === 'grey' ? 0 : Math.min(index, 2)), channels)
  return [0, 1, 2].reduce<FilePlan[]>((now, i) => setSlot(now, map, i, at(i), channels), [...files])
}

/** Copies one slot to another, or lets it follow. */
export function copySlot(
  files: Files,
  from: { map: string; slot: number },
  to: { map: string; slot: number },
  link: boolean,
  channels: readonly Channel[],
): FilePlan[] {
  if (from.map === to.map && from.slot === to.slot) return [...files]
  return setSlot(
    files,
    to.map,
    to.slot,
    link ? { follows: { map: from.map, slot: from.slot } } : slotOf(files, from.map, from.slot),
    channels,
  )
}

/** Two slots change places; an empty one leaves the other's place empty. Where one follows the other, both hold what they come to. */
export function swapSlots(
  files: Files,
  a: { map: string; slot: number },
  b: { map: string; slot: number },
  channels: readonly Channel[],
): FilePlan[] {
  if (a.map === b.map && a.slot === b.slot) return [...files]
  const read = (at: typeof a, other: typeof a): SlotPlan | null => {
    const slot = files.find(({ map }) => map === at.map)?.slots[at.slot]
    if (!slot) return null
    const follows = 'follows' in slot && slot.follows.map === other.map && slot.follows.slot === other.slot
    return follows ? slotOf(files, at.map, at.slot) : slot
  }
  const [atA, atB] = [read(a, b), read(b, a)]
  // What is emptied goes last: it may take the slots after it along.
  const first: [typeof a, SlotPlan | null] = atA ? [b, atA] : [a, atB]
  const second: [typeof a, SlotPlan | null] = atA ? [a, atB] : [b, atA]
  return [first, second].reduce<FilePlan[]>(
    (now, [at, slot]) => setSlot(now, at.map, at.slot, slot, channels),
    [...files],
  )
}

/** How a file is compressed for graphics cards; null takes blocks away. */
export interface BlockForm {
  readonly block?: BlockKind | null
  readonly quality?: BlockQuality
  readonly mips?: boolean
  readonly roughens?: boolean
}

/** Members that say nothing are left out: blocks in formats that hold none, and with slots that do not fit them. */
function withBlocks({ block, quality, mips, roughens, ...file }: Omit<FilePlan, 'block'> & BlockForm): FilePlan {
  const holds = writtenFormat(file.format).write.holdsBlocks
  const kept = holds && block && BLOCK_SLOTS[block].includes(file.slots.length) ? block : undefined
  return {
    ...file,
    ...(kept ? { block: kept } : {}),
    ...(kept && quality ? { quality } : {}),
    ...(holds && mips ? { mips } : {}),
    ...(holds && mips && roughens ? { roughens } : {}),
  }
}

/** Takes a file's format or bits or encoding over. Bits that the format does not have become its usual ones. */
export function setForm(
  files: Files,
  map: string,
  form: Partial<Pick<FilePlan, 'format' | 'bits' | 'transfer'>> & BlockForm,
  channels: readonly Channel[] | null,
): FilePlan[] {
  return changed(files, map, form.transfer ? null : channels, (file) => {
    const next = withBlocks({ ...file, ...form })
    const format = writtenFormat(next.format)
    if (!depthOf(format, next.bits)) next.bits = format.write.depths[0]!.bits
    if (!format.write.alpha && next.slots.length === 4)
      throw new GristError(
        'packing-invalid',
        `A ${format.title} has no alpha. Clear A first, or keep ${writtenFormat(file.format).title}.`,
      )
    const [red] = next.slots
    const follow: SlotPlan = { follows: { map, slot: 0 } }
    if (!format.write.grey && next.slots.length === 1) next.slots = [red, follow, follow]
    return next
  })
}

/**
 * A packing with all of its files in one form, for materials without channels of their own; blocks and mips stay where that holds them.
 * Throws packing-invalid where alpha would be lost.
 */
export function inForm(packing: Packing, form: Pick<FilePlan, 'format' | 'bits'>): Packing {
  const whole = writtenOut(packing, CHANNELS)
  const files = whole.files.reduce<FilePlan[]>((all, { map }) => setForm(all, map, form, null), [...whole.files])
  return parsePacking({ ...whole, files })
}

/** Gives a file another name; what follows its slots goes on following them. */
export function renameFile(files: Files, from: string, to: string): FilePlan[] {
  if (from === to) return [...files]
  if (files.some(({ map }) => map === to)) throw new GristError('packing-invalid', `There is a file "${to}" already.`)
  const moved = (slot: SlotPlan): SlotPlan =>
    'follows' in slot && slot.follows.map === from ? { follows: { ...slot.follows, map: to } } : slot
  return files.map((file) => ({
    ...file,
    map: file.map === from ? to : file.map,
    slots: file.slots.map(moved) as FilePlan['slots'],
  }))
}

/** Takes a file out; what followed its slots holds what they held. */
export function removeFile(files: Files, map: string): FilePlan[] {
  const rest = files.filter((file) => file.map !== map)
  return rest.map((file) => ({
    ...file,
    slots: file.slots.map((slot, i) =>
      'follows' in slot && slot.follows.map === map ? slotOf(files, file.map, i) : slot,
    ) as FilePlan['slots'],
  }))
}

/** Adds a file: of a channel, or a grey one that is white. */
export function addFile(files: Files, channel: Channel | null, channels: readonly Channel[]): FilePlan[] {
  const wanted = channel?.id ?? 'map'
  let map = wanted
  for (let n = 2; files.some((file) => file.map === map); n++) map = `${wanted}-${n}`
  const file: FilePlan = { map, format: 'png', bits: 8, transfer: 'raw', slots: [OPAQUE] }
  const all = [...files, file]
  return channel ? putChannel(all, map, 0, channel, channels) : all
}

/** Changes one file, and takes the encoding from what it holds: sRGB where all its colours are, raw where none is. */
function changed(
  files: Files,
  map: string,
  channels: readonly Channel[] | null,
  change: (file: FilePlan) => FilePlan,
): FilePlan[] {
  const all = files.map((file) => (file.map === map ? change(file) : file))
  if (!channels) return all
  return all.map((file) => {
    if (file.map !== map) return file
    const slotPlan = file.slots.slice(0, 3).flatMap((_, i) => {
      const slot = slotOf(all, map, i)
      const channel = 'channel' in slot ? channels.find(({ id }) => id === slot.channel) : undefined
      return channel ? [channel.transfer] : []
    })
    if (slotPlan.length === 0 || new Set(slotPlan).size > 1) return file
    return { ...file, transfer: slotPlan[0]! }
  })
}
