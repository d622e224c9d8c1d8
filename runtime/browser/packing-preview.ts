import type { DisplayBytes } from '#core/preview/display'
import { displayBytes, reduceField } from '#core/preview/display'
import type { Field } from '#core/field/field'
import { createField, uniformField } from '#core/field/field'
import type { RasterImage } from '#core/field/pyramid'
import { encodeSrgb } from '#core/colour/srgb'
import { GristError } from '#core/errors'
import type { JpegShape } from '#core/texture/formats/jpeg'
import type { Channel } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import type { Finish } from '#core/compose/expand'
import { channelsOf } from '#core/compose/expand'
import { packedImage } from '#core/texture/packed-image'
import type { ChannelSpread } from '#core/preview/channel-histograms'
import { channelSpreads } from '#core/preview/channel-histograms'
import type { RuleResult } from '#core/checks/check'
import { checkReport } from '#core/checks/check'
import { checks } from '#core/checks/rules/rules.generated'
import { mipOf } from '#core/texture/mips'
import { filesOf, parsePacking } from '#core/texture/packing'
import type { RecordFile } from '#core/texture/record'
import { parseRecord } from '#core/texture/record'
import { unpack } from '#core/texture/unpack'
import type { TexturePicture, TextureSlot } from './textures'
import { texturesOf } from './textures'

/** What a page wants to see of a packing, or of what was delivered. */
export interface PackRequest {
  readonly document: unknown
  /** Width at which channels are evaluated. */
  readonly width: number
  readonly from:
    | { readonly packing: unknown; readonly sharpen: number; readonly dither: boolean }
    | { readonly delivery: string; readonly record: unknown }
  readonly want: SheetWanted | LookWanted
}

/** Pictures of files and slots, and checks and spreads for files of a size. */
export interface SheetWanted {
  readonly kind: 'sheet'
  readonly report: { readonly width: number; readonly height: number } | null
}

/** Textures of what an engine would see of the files, at a mip level. */
export interface LookWanted {
  readonly kind: 'look'
  readonly mip: number
  /** A channel, "file:MAP" or "slot:MAP:N" seen unlit; null is the lit material. */
  readonly shown: string | null
}

/** A file small: as its colours look, and each of its slots as a grey. */
export interface FilePictures {
  readonly whole: DisplayBytes
  readonly slots: readonly DisplayBytes[]
}

export interface PackedSheet {
  readonly kind: 'sheet'
  readonly files: Readonly<Record<string, FilePictures>>
  readonly report: readonly RuleResult[] | null
  readonly spreads: readonly ChannelSpread[] | null
}
export interface PackedLook {
  readonly kind: 'look'
  readonly width: number
  readonly height: number
  readonly textures: Partial<Record<TextureSlot, TexturePicture>>
}
export type Packed = PackedSheet | PackedLook
export type PackOutcome = { packed: Packed } | { error: string; cancelled: boolean }

export interface PackHost {
  evaluate(
    document: MaterialDocument,
    outputs: readonly string[],
    finish: Finish,
  ): Promise<{ fields: ReadonlyMap<string, Field>; faults: ReadonlyMap<string, { message: string }> }>
  fetchFile(delivery: string, index: number, mip: number): Promise<RasterImage>
  throughJpeg(pixels: Uint8Array, shape: JpegShape): Promise<Uint8Array>
  isCancelled(): boolean
}

/** Longer side of a file's picture in the sheet. */
const SWATCH = 64

type OneFile = {
  record: Pick<RecordFile, 'name' | 'map' | 'format' | 'bits' | 'transfer' | 'slots'>
  image: RasterImage
}

let made = 0

/** Packs, rounds, reads back, and shows what came of it. Throws packing-invalid, cancelled, and what evaluating throws. */
export async function makePacked(request: PackRequest, host: PackHost): Promise<Packed> {
  const { from, want } = request
  const document = parseDocument(request.document)
  const channels = new Map(channelsOf(document).map((channel) => [channel.id, channel]))
  const { heightMetres } = document
  const { files, before } =
    'packing' in from
      ? await packNow(request, from, document, channels, host)
      : { files: await fetchAll(from, want, host), before: new Map<string, Field>() }
  if (host.isCancelled()) throw new GristError('cancelled', 'Something newer is wanted.')
  if (want.kind === 'sheet')
    return {
      kind: 'sheet',
      files: Object.fromEntries(files.map((file) => [file.record.map, picturesOf(file, channels, heightMetres)])),
      ...(want.report ? reportOn(want.report, files, before, document, channels) : { report: null, spreads: null }),
    }
  // The server has made the mips of what was delivered.
  const small = 'packing' in from ? files.map((file) => mipped(file, want.mip)) : files
  const { width = 1, height = 1 } = small[0]?.image ?? {}
  const textures = texturesFor(want.shown, small, channels, heightMetres, `packed ${++made}`)
  return { kind: 'look', width, height, textures }
}

/** Whether a file has to do with what is looked at. */
function isSeen(want: PackRequest['want'], map: string, slots: readonly object[]): boolean {
  if (want.kind === 'sheet' || want.shown === null) return true
  const [kind = '', named] = want.shown.split(':')
  if (kind === 'file' || kind === 'slot') return map === named
  return slots.some((slot) => 'channel' in slot && slot.channel === want.shown)
}

async function packNow(
  { width, want }: PackRequest,
  { packing, sharpen, dither }: { packing: unknown; sharpen: number; dither: boolean },
  document: MaterialDocument,
  channels: ReadonlyMap<string, Channel>,
  host: PackHost,
): Promise<{ files: OneFile[]; before: ReadonlyMap<string, Field> }> {
  const plans = filesOf(parsePacking(packing), [...channels.values()]).filter(({ map, slots }) =>
    isSeen(want, map, slots),
  )
  // Opacity also where nothing takes it: the check tells when it would be missed.
  const outputs = new Set(
    plans.flatMap(({ slots }) => slots.flatMap((slot) => ('channel' in slot ? slot.channel : []))),
  )
  const { fields, faults } = await host.evaluate(document, [...outputs, 'opacity'], { sharpen })
  for (const output of outputs)
    if (faults.has(output))
      throw new GristError(
        'packing-invalid',
        `${channels.get(output)!.title} cannot be made: ${faults.get(output)!.message}`,
      )
  const [some] = fields.values()
  const size = { width, height: some!.height }
  const whole = {
    ...size,
    channels,
    fields,
    heightMetres: document.heightMetres,
    dither,
    throughJpeg: host.throughJpeg,
  }
  const files: OneFile[] = []
  for (const plan of plans) {
    files.push(await packedImage(plan, `${plan.map}.${plan.format}`, whole))
    if (host.isCancelled()) throw new GristError('cancelled', 'Something newer is wanted.')
  }
  return { files, before: fields }
}

async function fetchAll(
  { delivery, record: json }: { delivery: string; record: unknown },
  want: PackRequest['want'],
  host: PackHost,
): Promise<OneFile[]> {
  const mip = want.kind === 'look' ? want.mip : 0
  const seen = parseRecord(json)
    .files.map((record, index) => ({ record, index }))
    .filter(({ record: { map, slots } }) => isSeen(want, map, slots))
  return Promise.all(
    seen.map(async ({ record, index }) => ({ record, image: await host.fetchFile(delivery, index, mip) })),
  )
}

const mipped = ({ record, image }: OneFile, mip: number): OneFile => ({ record, image: mipOf(image, mip, record) })

/** One slot as a grey of 0–1, as its number stands in the file; of floats as a file of whole numbers would show it. */
function slotField(
  { record, image }: OneFile,
  s: number,
  channels: ReadonlyMap<string, Channel>,
  heightMetres: number,
): Field {
  const { width, height, values, float } = image
  const field = createField('grey', width, height)
  const slot = record.slots[s]!
  const channel = slot.channel === null ? undefined : channels.get(slot.channel)
  const show = !float
    ? (v: number) => v
    : channel?.type === 'normal'
      ? (v: number) => v * 0.5 + 0.5
      : channel?.id === 'height'
        ? (v: number) => v / heightMetres + 0.5
        : channel?.transfer === 'srgb'
          ? encodeSrgb
          : (v: number) => v
  const step = image.channels
  const at = Math.min(s, step - 1)
  const plane = field.planes[0]!
  for (let i = 0; i < plane.length; i++) plane[i] = show(values[i * step + at]!)
  return field
}

function slotFields(file: OneFile, channels: ReadonlyMap<string, Channel>, heightMetres: number): Field[] {
  return file.record.slots.map((_, s) => slotField(file, s, channels, heightMetres))
}

function picturesOf(file: OneFile, channels: ReadonlyMap<string, Channel>, heightMetres: number): FilePictures {
  const slots = slotFields(file, channels, heightMetres).map((field) => reduceField(field, SWATCH))
  return { whole: coloured(slots, false), slots: slots.map((field) => displayBytes(field)) }
}

/** Red, green and blue of three greys; of one, grey. */
function coloured(slots: readonly Field[], flip: boolean): DisplayBytes {
  const pictures = slots.slice(0, 3).map((field) => displayBytes(field, flip))
  const [red, green = red, blue = red] = pictures as [DisplayBytes, DisplayBytes?, DisplayBytes?]
  const pixels = red.pixels.slice()
  for (let i = 0; i < pixels.length; i += 4) {
    pixels[i + 1] = green!.pixels[i]!
    pixels[i + 2] = blue!.pixels[i]!
  }
  return { ...red, pixels }
}

function texturesFor(
  shown: string | null,
  files: readonly OneFile[],
  channels: ReadonlyMap<string, Channel>,
  heightMetres: number,
  key: string,
): PackedLook['textures'] {
  const [kind = '', map, slot] = shown?.split(':') ?? []
  if (kind === 'file' || kind === 'slot') {
    const file = files.find(({ record }) => record.map === map)
    if (!file || (kind === 'slot' && !file.record.slots[Number(slot)])) return {}
    const picture =
      kind === 'file'
        ? coloured(slotFields(file, channels, heightMetres), true)
        : displayBytes(slotField(file, Number(slot), channels, heightMetres), true)
    return { shown: { key, ...picture } }
  }
  const found = new Map(unpack(files, channels, heightMetres).map(({ channel, field }) => [channel.id, field]))
  // What no file brings, an engine takes to be what lies below the lowest layer.
  const { width = 1, height = 1 } = files[0]?.image ?? {}
  for (const { id, type, below } of channels.values())
    if (!found.has(id)) found.set(id, uniformField(type, width, height, below))
  return Object.fromEntries(
    texturesOf(found, { lit: true, shown }).map(({ slot: at, make }) => [at, { key, ...make() }]),
  )
}

function reportOn(
  size: { width: number; height: number },
  files: readonly OneFile[],
  before: ReadonlyMap<string, Field>,
  document: MaterialDocument,
  channels: ReadonlyMap<string, Channel>,
): Pick<PackedSheet, 'report' | 'spreads'> {
  const unpacked = unpack(files, channels, document.heightMetres)
  const opacity = before.get('opacity')
  const missed =
    opacity && !unpacked.some(({ channel }) => channel.id === 'opacity')
      ? [{ channel: channels.get('opacity')!, field: opacity, steps: 0 }]
      : []
  const subject = {
    ...size,
    channels: [...unpacked, ...missed],
    files: files.map(({ record }) => ({
      record: { ...record, bytes: 0, sha256: '' },
      marked: record.format === 'png' ? record.transfer === 'srgb' : null,
    })),
    before,
    emissionStrength: document.emissionStrength,
  }
  return { report: checkReport(checks, subject), spreads: channelSpreads(unpacked) }
}
