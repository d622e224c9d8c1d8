import type { FileLoss } from '#core/texture/file-loss'
import { fixedChannel } from '#core/document/channels'
import { depthOf, formatNamed, holdsFloats } from '#core/texture/format-registry'
import type { Channel } from '#core/document/channels'
import type { SlotPlan } from '#core/texture/packing'
import { mayDither } from '#core/texture/packing'

export const SLOT_NAMES = ['R', 'G', 'B', 'A'] as const

const PLANES: Readonly<Record<Channel['type'], readonly string[]>> = {
  grey: [''],
  colour: ['red', 'green', 'blue'],
  normal: ['x', 'y', 'z'],
}

/** A slot in a few letters, under its picture. */
export function slotWord(slot: SlotPlan, channels: readonly Channel[]): string {
  if ('constant' in slot) return String(slot.constant)
  if ('follows' in slot) return `as ${slot.follows.map} ${SLOT_NAMES[slot.follows.slot]}`
  const channel = channels.find(({ id }) => id === slot.channel)
  const plane = PLANES[channel?.type ?? 'grey'][slot.component]
  const short = channel?.short ?? channel?.title.toLowerCase() ?? slot.channel
  return channel?.type === 'normal' ? plane! : plane ? `${short} ${plane[0]}` : short
}

/** The same in full, for screen readers and lists. */
export function slotInWords(slot: SlotPlan, channels: readonly Channel[]): string {
  if ('constant' in slot) return `constant ${slot.constant}`
  if ('follows' in slot) return `the same as ${slot.follows.map} ${SLOT_NAMES[slot.follows.slot]}`
  const channel = channels.find(({ id }) => id === slot.channel)
  const plane = PLANES[channel?.type ?? 'grey'][slot.component]
  return `${channel?.title ?? slot.channel}${plane ? `, ${plane}` : ''}${slot.invert ? ', inverted' : ''}`
}

/** Every plane of every channel, to choose from. */
export const planesOf = (channels: readonly Channel[]): { value: string; word: string }[] =>
  channels.flatMap(({ id, title, type }) =>
    PLANES[type].map((plane, component) => ({
      value: `${id}.${component}`,
      word: plane ? `${title}, ${plane}` : title,
    })),
  )

export const formatWord = (format: string): string => formatNamed(format)?.title ?? format.toUpperCase()

export function bitsWord({ format, bits }: { format: string; bits: number }): string {
  const known = formatNamed(format)
  return (known && depthOf(known, bits)?.title) ?? `${bits}-bit`
}

/** How a file is written: "PNG 8-bit, sRGB, dithered". */
export function formInWords(
  {
    format,
    bits,
    transfer,
    slots,
    block,
    mips,
  }: {
    format: string
    bits: number
    transfer: string
    slots: readonly object[]
    block?: string
    mips?: boolean
  },
  dither: boolean,
): string {
  const height = slots.some((slot) => 'channel' in slot && fixedChannel(String(slot.channel))?.isHeight)
  const how = holdsFloats({ format, bits }) ? (height ? 'metres' : 'linear') : transfer === 'srgb' ? 'sRGB' : 'raw'
  return [
    `${formatWord(format)} ${block ? block.toUpperCase() : bitsWord({ format, bits })}`,
    how,
    ...(mips ? ['with mips'] : []),
    ...(dither && bits === 8 && mayDither({ slots, block }) ? ['dithered'] : []),
  ].join(', ')
}

/** What rounding, dither and compression take of a file: the peak over what is lost (PSNR). */
export const lossInWords = ({ rms }: Pick<FileLoss, 'rms'>): string =>
  rms === 0 ? 'exact' : `${(-20 * Math.log10(rms)).toFixed(1)} dB`
