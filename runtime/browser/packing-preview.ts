import { formatNamed } from '#core/texture/format-registry'
import type { DisplayBytes } from '#core/preview/display'
import { displayBytes, reduceField } from '#core/preview/display'
import type { Field } from '#core/field/field'
import { createField, uniformField } from '#core/field/field'
import type { RasterImage } from '#core/field/pyramid'
import { encodeSrgb } from '#core/colour/srgb'
import { GristError } from '#core/errors'
import type { ThroughJpeg } from '#core/texture/jpeg-codec'
import type { Channel } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import { channelOutput, formatOutput } from '#core/document/address'
import type { MaterialSession } from '#core/material/session'
import { subjectOfFiles } from '#core/checks/subject'
import type { StageOutput } from '#core/texture/stage-output'
import { isFileOutput } from '#core/texture/stage-output'
import { channelsOf } from '#core/document/channels'
import { packedImage } from '#core/texture/pack-image'
import { channelHistograms } from '#core/preview/channel-histograms'
import { checkReport } from '#core/checks/check'
import { checks } from '#core/checks/rules/rules.generated'
import { mipOf } from '#core/texture/mips'
import { filesOf, parsePacking } from '#core/texture/packing'
import type { RecordFile } from '#core/texture/record'
import { parseRecord } from '#core/texture/record'
import { unpack } from '#core/texture/unpack'
import type { DeliveredPreview, FilePictures, PackRequest, PackingPreview, Textures } from './protocol'
import { texturesOf } from './textures'

/** What packing needs from outside. */
export interface PackHost {
  fetchFile(delivery: string, index: number, mip: number): Promise<RasterImage>
  readonly throughJpeg: ThroughJpeg
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
export async function pack(
  request: PackRequest,
  session: MaterialSession,
  host: PackHost,
): Promise<PackingPreview | DeliveredPreview> {
  const { from, want } = request
  const { document } = session
  const channels = new Map(channelsOf(document).map((channel) => [channel.id, channel]))
  const { heightMetres } = document
  const { files, before } =
    'packing' in from
      ? await packNow(request, from, session, channels, host)
      : { files: await fetchAll(from, want, host), before: new Map<string, Field>() }
  if (host.isCancelled()) throw new GristError('cancelled', 'Something newer is wanted.')
  if (want.kind === 'packing')
    return {
      kind: 'packing',
      files: Object.fromEntries(files.map((file) => [file.record.map, picturesOf(file, channels, heightMetres)])),
      ...(want.report ? reportOn(want.report, files, before, document, channels) : { report: null, histograms: null }),
    }
  // The server has made the mips of what was delivered.
  const small = 'packing' in from ? files.map((file) => mipped(file, want.mip)) : files
  const { width = 1, height = 1 } = small[0]?.image ?? {}
  const textures = texturesFor(want.shown, small, channels, heightMetres, `packed ${++made}`)
  return { kind: 'delivered', width, height, textures }
}

/** Whether a file has to do with what is looked at. */
function isSeen(want: PackRequest['want'], map: string, slots: readonly object[]): boolean {
  if (want.kind === 'packing' || want.shown === null) return true
  const { shown } = want
  if (isFileOutput(shown)) return map === shown.map
  return slots.some((slot) => 'channel' in slot && slot.channel === formatOutput(shown))
}

async function packNow(
  { width, want }: PackRequest,
  { packing, sharpen, dither }: { packing: unknown; sharpen: number; dither: boolean },
  session: MaterialSession,
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
  const { heightMetres } = session.document
  const { fields, faults } = await session.evaluatePartial({
    outputs: [...new Set([...outputs, 'opacity'])].map(channelOutput),
    width,
    options: { sharpen },
    isCancelled: host.isCancelled,
  })
  for (const output of outputs) {
    const fault = faults.get(output)
    if (fault) throw new GristError('packing-invalid', `${channels.get(output)!.title} cannot be made: ${fault.detail}`)
  }
  const [some] = fields.values()
  const size = { width, height: some!.height }
  const whole = {
    ...size,
    channels,
    fields,
    heightMetres,
    dither,
    host,
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
  const mip = want.kind === 'delivered' ? want.mip : 0
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
      : channel?.isHeight
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
  shown: StageOutput | null,
  files: readonly OneFile[],
  channels: ReadonlyMap<string, Channel>,
  heightMetres: number,
  key: string,
): Textures {
  if (isFileOutput(shown)) {
    const file = files.find(({ record }) => record.map === shown.map)
    if (!file || (shown.kind === 'slot' && !file.record.slots[shown.slot])) return {}
    const picture =
      shown.kind === 'file'
        ? coloured(slotFields(file, channels, heightMetres), true)
        : displayBytes(slotField(file, shown.slot, channels, heightMetres), true)
    return { shown: { key, ...picture } }
  }
  const found = new Map(unpack(files, channels, heightMetres).map(({ channel, field }) => [channel.id, field]))
  // What no file brings, an engine takes to be what lies below the lowest layer.
  const { width = 1, height = 1 } = files[0]?.image ?? {}
  for (const { id, type, backdrop } of channels.values())
    if (!found.has(id)) found.set(id, uniformField(type, width, height, backdrop))
  return Object.fromEntries(
    texturesOf(found, { lit: true, shown: shown && formatOutput(shown) }).map(({ slot: at, make }) => [
      at,
      { key, ...make() },
    ]),
  )
}

function reportOn(
  size: { width: number; height: number },
  files: readonly OneFile[],
  before: ReadonlyMap<string, Field>,
  document: MaterialDocument,
  channels: ReadonlyMap<string, Channel>,
): Pick<PackingPreview, 'report' | 'histograms'> {
  const subject = subjectOfFiles(
    files.map(({ record, image }) => ({
      record: { ...record, bytes: 0, sha256: '' },
      image,
      marked: formatNamed(record.format)?.isMarkedSrgb ? record.transfer === 'srgb' : null,
    })),
    channels,
    document.heightMetres,
    { ...size, before, emissionStrength: document.emissionStrength },
  )
  const held = subject.channels.filter(({ channel }) =>
    files.some(({ record }) => record.slots.some((slot) => slot.channel === channel.id)),
  )
  return { report: checkReport(checks, subject), histograms: channelHistograms(held) }
}
