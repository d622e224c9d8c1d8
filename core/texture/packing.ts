import { depthOf, writtenFormat, writtenFormats } from './format-registry'
import { utf8ToBytes } from '@noble/hashes/utils.js'
import { z } from 'zod'
import { cutText } from '../cut-text'
import { GristError } from '../errors'
import type { BlockKind } from '../kernels/blocks/blocks'
import { BLOCK_KINDS } from '../kernels/blocks/blocks'
import { BLOCK_QUALITIES } from '../kernels/blocks/blocks'
import type { Channel } from '../document/channels'
import { DERIVED_CHANNELS, isNormal } from '../document/channels'
import type { MaterialDocument } from '../document/document'
import { FIRST_TILE, partOf } from '../document/domain'
import { explainIssue } from '../document/document'

/** Most frames across and down a sheet. */
export const MAX_FRAMES = 16

const mapName = z.string().regex(/^[A-Za-z0-9_-]{1,64}$/, 'letters, digits, - and _')

/** One colour channel of a file: a plane of a material's channel, inverted or not, or a constant. */
const ownSlot = z.union([
  z.strictObject({
    channel: z.string().max(64),
    component: z.int().min(0).max(2).default(0),
    invert: z.boolean().default(false),
    /** What it holds in a material that has no such channel. */
    otherwise: z.number().min(0).max(1).optional(),
  }),
  z.strictObject({ constant: z.number().min(0).max(1) }),
])

/** Or whatever another slot holds: R is 0, A is 3. */
const slot = z.union([
  ownSlot,
  z.strictObject({ follows: z.strictObject({ map: mapName, slot: z.int().min(0).max(3) }) }),
])

const file = z.strictObject({
  /** What the file is called in patterns: {map}. */
  map: mapName,
  /** What it is called, ending and all, whatever the pattern says. */
  name: z
    .string()
    .max(200)
    .regex(
      /^[^/\\\p{Cc}]*[^/\\\p{Cc}.][^/\\\p{Cc}]*\.(png|tga|tiff?|exr|jpe?g|dds|ktx2)$/iu,
      'the name of an image file',
    )
    .optional(),
  /** One slot for a grey file, three or four for a colour file. */
  slots: z.union([z.tuple([slot]), z.tuple([slot, slot, slot]), z.tuple([slot, slot, slot, slot])]),
  /** srgb: the first three slots are encoded; the fourth never is. */
  transfer: z.enum(['srgb', 'raw']),
  format: z.enum(writtenFormats.map(({ name }) => name)),
  bits: z.union([z.literal(8), z.literal(16), z.literal(32)]),
  /** Blocks that it is compressed in, in formats that hold them; plain texels where there are none. */
  block: z.enum(BLOCK_KINDS).optional(),
  /** How hard blocks are looked for; absent is "normal". */
  quality: z.enum(BLOCK_QUALITIES).optional(),
  /** Whether the file holds its mips, in formats that can. */
  mips: z.boolean().optional(),
  /** Whether roughness of mips grows by the normal detail that they lose. */
  roughens: z.boolean().optional(),
})

/** How many slots a file has that is compressed in such blocks. */
export const BLOCK_SLOTS: Readonly<Record<BlockKind, readonly number[]>> = {
  bc1: [3],
  bc3: [4],
  bc4: [1],
  bc5: [3],
  bc7: [3, 4],
}

const frames = z.strictObject({
  columns: z.int().min(1).max(MAX_FRAMES),
  rows: z.int().min(1).max(MAX_FRAMES),
  /** A number dial of the material, by its label or id. */
  dial: z.string().min(1).max(200),
  /** The end of the dial is its beginning again, so that the last frame stands a step before it. */
  loops: z.boolean(),
})
export type Frames = z.output<typeof frames>

const packing = z.strictObject({
  format: z.literal('amber-grist/packing'),
  version: z.literal(1),
  name: z.string().regex(/^[a-z0-9-]{1,64}$/, 'small letters, digits and -'),
  title: z.string().max(100),
  summary: z.string().max(400),
  /** Fields: see NAME_FIELDS. */
  pattern: z.string().min(1).max(200).default('{material}_{map}'),
  files: z.array(file).max(64),
  /** Colours grow outward under what is transparent. */
  bleeds: z.boolean().optional(),
  /** Every file is a sheet of so many pictures of the material, row by row, in which one of its dials goes from end to end. */
  frames: frames.optional(),
  /** Adds a file of its own for every channel of the material, in this form. */
  everyChannel: file.pick({ format: true, bits: true }).optional(),
})

export type Packing = z.output<typeof packing>
/** A file as a packing describes it; its slots may follow others. */
export type FilePlan = z.output<typeof file>
export type SlotPlan = z.output<typeof slot>
/** A slot with its own contents. */
export type Slot = z.output<typeof ownSlot>
/** A file ready to be written: what its slots follow is written out. */
export interface PackedFile extends Omit<FilePlan, 'slots'> {
  readonly slots: readonly Slot[]
}

/** Reads a packing. Throws packing-invalid, naming the member. */
export function parsePacking(json: unknown): Packing {
  const result = packing.safeParse(json)
  if (!result.success) throw new GristError('packing-invalid', explainIssue(result.error.issues[0]!, json))
  for (const one of result.data.files) checkFile(one)
  return result.data
}

function checkFile({ map, format: name, bits, slots, block, mips }: FilePlan): void {
  const format = writtenFormat(name)
  if ((block || mips) && !format.write.holdsBlocks)
    throw new GristError('packing-invalid', `${map}: a ${format.title} holds neither blocks nor mips.`)
  if (block && !BLOCK_SLOTS[block].includes(slots.length))
    throw new GristError(
      'packing-invalid',
      `${map}: ${block.toUpperCase()} takes ${BLOCK_SLOTS[block].join(' or ')} slots, not ${slots.length}.`,
    )
  if (!depthOf(format, bits))
    throw new GristError('packing-invalid', `${map}: ${format.title} has no ${bits}-bit form.`)
  if (!format.write.grey && slots.length === 1)
    throw new GristError('packing-invalid', `${map}: a ${format.title} takes three or four slots.`)
  if (!format.write.alpha && slots.length === 4)
    throw new GristError(
      'packing-invalid',
      `${map}: a ${format.title} has no alpha. Take A out, or take another format.`,
    )
}

/** A packing as written in code, with the fixed members filled in and checked. */
export const definePacking = (data: Omit<z.input<typeof packing>, 'format' | 'version'>): Packing =>
  parsePacking({ format: 'amber-grist/packing', version: 1, ...data })

/** What a slot holds in the end. Throws packing-invalid where it follows in a circle, or a slot that does not exist. */
export function slotOf(files: readonly FilePlan[], map: string, index: number): Slot {
  const seen = new Set<string>()
  let at = { map, slot: index }
  for (;;) {
    const name = `${at.map} ${'RGBA'[at.slot]}`
    const slot = files.find((file) => file.map === at.map)?.slots[at.slot]
    if (!slot) throw new GristError('packing-invalid', `${map} ${'RGBA'[index]} follows ${name}, which does not exist.`)
    if (!('follows' in slot)) return slot
    if (seen.has(name)) throw new GristError('packing-invalid', `${name} follows itself.`)
    seen.add(name)
    at = slot.follows
  }
}

/**
 * The files of a packing for a material with these channels.
 * Throws packing-invalid on an unknown channel or component, and where slots follow in a circle.
 */
export function filesOf(
  { files, everyChannel }: Pick<Packing, 'files' | 'everyChannel'>,
  channels: readonly Channel[],
): PackedFile[] {
  const own = everyChannel
    ? channels
        .filter(({ derived }) => !derived)
        .map((channel): PackedFile => {
          const planes = channel.type === 'grey' ? [0] : [0, 1, 2]
          const slots = planes.map((component) => ({ channel: channel.id, component, invert: false }))
          return { ...everyChannel, map: channel.id, transfer: channel.transfer, slots }
        })
    : []
  const there = (slot: Slot): Slot =>
    'channel' in slot && slot.otherwise !== undefined && !channels.some(({ id }) => id === slot.channel)
      ? { constant: slot.otherwise }
      : slot
  const written = files.map((one) => ({ ...one, slots: one.slots.map((_, i) => there(slotOf(files, one.map, i))) }))
  const all = [...written, ...own]
  for (const { map, slots } of all)
    for (const one of slots) {
      const channel = 'channel' in one ? channels.find(({ id }) => id === one.channel) : undefined
      if ('channel' in one && !channel)
        throw new GristError(
          'packing-invalid',
          `${map}: there is no channel "${one.channel}" in this material${forParts(one.channel) ? ', which lies on no part of a model' : ''}.`,
        )
      if ('channel' in one && channel!.type === 'grey' && one.component > 0)
        throw new GristError('packing-invalid', `${map}: "${one.channel}" is grey and has component 0 only.`)
    }
  return all
}

const forParts = (id: string): boolean => DERIVED_CHANNELS.some((one) => one.id === id && one.derived?.onPart)

/** Those of these channels that files hold. */
export function channelsHeld(files: readonly Pick<PackedFile, 'slots'>[], channels: readonly Channel[]): Channel[] {
  const held = new Set(files.flatMap(({ slots }) => slots.map((one) => 'channel' in one && one.channel)))
  return channels.filter(({ id }) => held.has(id))
}

/** Channels that files of a packing hold, of a material with these. Throws what `filesOf` throws. */
export const channelsOfPacking = (
  packing: Pick<Packing, 'files' | 'everyChannel'>,
  channels: readonly Channel[],
): Channel[] => channelsHeld(filesOf(packing, channels), channels)

/**
 * Whether a file's steps are dithered where that is asked for: not those of normals, whose lengths it would spoil, nor those that go into
 * blocks, which have few tones for noise.
 */
export const mayDither = ({
  slots,
  block,
}: {
  readonly slots: readonly object[]
  readonly block?: string | undefined
}): boolean => !block && !slots.some((slot) => 'channel' in slot && isNormal(String(slot.channel)))

/** What a name pattern may hold. */
export const NAME_FIELDS = {
  project: 'the project’s name',
  material: 'the material’s name',
  map: 'what the file is called in the packing',
  size: 'texels across',
  delivery: 'the delivery’s number',
  part: 'the part’s name, of materials on parts',
  udim: 'the number of the UV tile, of materials on parts',
} as const
/** Fields that only a material on a part has. */
const PART_FIELDS = ['part', 'udim']

/** What names can hold of the part that a material lies on. */
export function partNames(document: Pick<MaterialDocument, 'domain'>): Pick<NameValues, 'part' | 'udim'> {
  const on = partOf(document)
  return on ? { part: on.name, udim: on.udim ?? FIRST_TILE } : {}
}

/** Values of a pattern's fields but for {map}; what is not known is absent. */
export type NameValues = Partial<Record<Exclude<keyof typeof NAME_FIELDS, 'map'>, string | number>>

/** Most bytes of a file's name in UTF-8: what the usual file systems take. */
const MAX_NAME_BYTES = 255

/** How file systems that make no difference between letter cases, or between ways to write an accent, see a name. */
export const foldName = (name: string): string => name.normalize('NFC').toLowerCase()

type NamedFile = Pick<PackedFile, 'map' | 'format' | 'name'>

/**
 * File names by the pattern, but for those that have their own. Unsafe characters become "-"; names of projects and materials are cut where a name would be
 * longer than file systems take.
 * Throws packing-invalid where two files would share a name (letter case aside), a field is unknown or has no value here.
 */
export function fileNames(pattern: string, files: readonly NamedFile[], values: NameValues): string[] {
  const names = patternNames(pattern, files, values)
  const [clash] = sharedNames(names)
  if (clash !== undefined)
    throw new GristError(
      'packing-invalid',
      `Two files would be called "${clash}". Put {map} into the name pattern, and give each map a name of its own.`,
    )
  return names
}

/** As fileNames, where files may come to share a name. */
export const patternNames = (pattern: string, files: readonly NamedFile[], values: NameValues): string[] =>
  files.map(
    ({ map, format, name }) =>
      name ??
      fittingName((cut) => {
        const fields = { ...values, ...cut, map }
        const stem = pattern.replace(/\{([^}]*)\}/g, (_, field: string) => fieldValue(field, fields))
        return `${stem.replace(/[^\p{L}\p{N}._-]+/gu, '-').replace(/^[.-]+|[.-]+$/g, '') || 'map'}.${format}`
      }, values),
  )

/** The names that more than one file has, letter case aside. */
export function sharedNames(names: readonly string[]): string[] {
  const folded = names.map(foldName)
  return names.filter((_, i) => folded.indexOf(folded[i]!) !== i || folded.lastIndexOf(folded[i]!) !== i)
}

/** Free texts, which names may hold a part of. */
const CUT_FIELDS = ['material', 'project', 'part'] as const

/** A name with its free texts cut until it is short enough. */
function fittingName(
  make: (cut: NameValues) => string,
  { material = '', project = '', part = '' }: NameValues,
): string {
  let cut = { material: String(material), project: String(project), part: String(part) }
  for (;;) {
    const name = make({
      ...(material === '' ? {} : { material: cut.material }),
      ...(project === '' ? {} : { project: cut.project }),
      ...(part === '' ? {} : { part: cut.part }),
    })
    if (utf8ToBytes(name).length <= MAX_NAME_BYTES) return name
    const longer = CUT_FIELDS.reduce((a, b) => (cut[b].length > cut[a].length ? b : a))
    if (cut[longer] === '')
      throw new GristError('packing-invalid', `A file name may have ${MAX_NAME_BYTES} bytes; shorten the name pattern.`)
    cut = { ...cut, [longer]: cutText(cut[longer], cut[longer].length - 1) }
  }
}

function fieldValue(field: string, values: Readonly<Record<string, string | number | undefined>>): string {
  const all = Object.keys(NAME_FIELDS).map((one) => `{${one}}`)
  if (PART_FIELDS.includes(field) && values[field] === undefined)
    throw new GristError('packing-invalid', `The name pattern asks for {${field}}, but this material lies on no part.`)
  if (!Object.hasOwn(NAME_FIELDS, field))
    throw new GristError(
      'packing-invalid',
      `The name pattern has an unknown field {${field}}. There are ${all.join(' ')}.`,
    )
  const value = values[field]
  if (value === undefined)
    throw new GristError('packing-invalid', `The name pattern asks for {${field}}, which is not known here.`)
  return String(value)
}
