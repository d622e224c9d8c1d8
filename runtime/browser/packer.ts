import type { Sharpening } from '#core/document/sharpening'
import { checkReport } from '#core/checks/check'
import { checks } from '#core/checks/rules/rules.generated'
import { checkedPart, subjectOfFiles } from '#core/checks/subject'
import { formatOutput } from '#core/document/address'
import type { Channel } from '#core/document/channels'
import { deliverableChannels, isTangentNormal } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import { partOf } from '#core/document/domain'
import { GristError } from '#core/errors'
import type { Field } from '#core/field/field'
import { createField, uniformField } from '#core/field/field'
import type { RasterImage } from '#core/field/pyramid'
import { encodedTexel } from '#core/kernels/srgb'
import type { Mesh } from '#core/mesh/mesh'
import type { PartLayout } from '#core/mesh/part-layout'
import { partLayoutOf } from '#core/mesh/part-layout'
import { channelHistograms } from '#core/preview/channel-histograms'
import type { DisplayBytes } from '#core/preview/display'
import type { Look } from '#core/preview/looks'
import { lookFor } from '#core/preview/looks'
import { displayBytes, reduceField, rgbaBytes } from '#core/preview/display'
import { formatNamed } from '#core/texture/format-registry'
import { exactImage, fileLoss, lossPicture } from '#core/texture/file-loss'
import type { ThroughJpeg } from '#core/texture/jpeg-codec'
import type { MipLevel } from '#core/texture/mip-chain'
import { channelsAtMip } from '#core/texture/mip-chain'
import { mipOf } from '#core/texture/mips'
import type { PackWhole } from '#core/texture/pack-image'
import { packedImage } from '#core/texture/pack-image'
import type { PackedFile } from '#core/texture/packing'
import { filesOf, parsePacking } from '#core/texture/packing'
import type { RecordFile } from '#core/texture/record'
import { parseRecord } from '#core/texture/record'
import type { StageOutput } from '#core/texture/stage-output'
import { isFileOutput } from '#core/texture/stage-output'
import { unpack } from '#core/texture/unpack'
import type { DeliveredPreview, FilePictures, PackRequest, PackingPreview, Textures } from './protocol'
import { makeTexture, texturesOf } from './textures'

/** What packing needs from outside. */
export interface PackHost {
  /** A delivery's file as it was written, at a mip level. */
  fetchFile(delivery: string, index: number, mip: number): Promise<RasterImage>
  readonly throughJpeg: ThroughJpeg
  /** Meshes of parts, by their hash. */
  fetchMesh(hash: string): Promise<Mesh>
  /** Lets what has come in meanwhile have its turn: a cancel, before the next file. */
  pause(): Promise<void>
}

/** Something to pack: a request, the document that it is about, and its channels where they are packed now. */
export interface PackTask extends Omit<PackRequest, 'update'> {
  /** What cancels it goes by this number. */
  readonly id: number
  readonly document: MaterialDocument
  /** By output, with the keys of what they hold. */
  readonly fields: ReadonlyMap<string, Field>
  readonly keys: ReadonlyMap<string, string>
}

export type PackResult = PackingPreview | DeliveredPreview

/** Longer side of a file's picture in the sheet. */
const SWATCH = 64
/** Bytes of read-back files that are kept, as most edits change few of them. */
const KEPT_BYTES = 128 << 20

/** A file as it would be read, or as it was. */
interface OneFile {
  readonly record: Pick<RecordFile, 'name' | 'map' | 'format' | 'bits' | 'transfer' | 'slots' | 'block'>
  readonly image: RasterImage
  /** Of what it holds, where it was packed now. */
  readonly key: string | null
  pictures?: FilePictures
}

/** A file of a request. What it holds before it is rounded is worked out where it is asked for, of the fields that the request came with. */
interface AskedFile extends Pick<OneFile, 'record' | 'image' | 'key'> {
  /** As it is kept; null of a mip of it, and of what was made before. */
  readonly kept: OneFile | null
  readonly exact: (() => RasterImage) | null
}

let made = 0

/**
 * Packs, rounds, reads back, checks, and shows what came of it; beside the worker that evaluates, so that neither waits for
 * the other. Files whose channels are as they were are not made again.
 */
export class Packer {
  /** What is under way and still wanted. */
  private readonly wanted = new Set<number>()
  private readonly files = new Map<string, OneFile>()
  /** The newest checks and histograms, and what they were made of. */
  private report: { readonly key: string; readonly made: Pick<PackingPreview, 'report' | 'histograms'> } | null = null

  /** How the part that was checked last is laid out. */
  private layout: { readonly key: string; readonly made: Promise<PartLayout> } | null = null

  constructor(private readonly host: PackHost) {}

  cancel(id: number): void {
    this.wanted.delete(id)
  }

  /** Throws packing-invalid and cancelled. */
  async pack(task: PackTask): Promise<PackResult> {
    this.wanted.add(task.id)
    try {
      return await this.packed(task)
    } finally {
      this.wanted.delete(task.id)
    }
  }

  private async packed(task: PackTask): Promise<PackResult> {
    const { from, want, document } = task
    const channels = new Map(deliverableChannels(document).map((channel) => [channel.id, channel]))
    const { heightMetres } = document
    const files = 'packing' in from ? await this.packNow(task, from, channels) : await this.fetchAll(from, want)
    await this.checkWanted(task)
    if (want.kind === 'packing') {
      const pictures: Record<string, FilePictures> = {}
      for (const file of files) {
        const known = file.kept?.pictures ?? picturesOf(file, channels, heightMetres)
        if (file.kept) file.kept.pictures = known
        pictures[file.record.map] = known
        await this.checkWanted(task)
      }
      return {
        kind: 'packing',
        files: pictures,
        ...(want.report ? await this.reportOn(task, want.report, files, channels) : { report: null, histograms: null }),
      }
    }
    // The server has made the mips of what was delivered.
    const { width = 1, height = 1 } = files[0]?.image ?? {}
    const look = lookFor(files.flatMap(({ record }) => record.slots.flatMap(({ channel }) => channel ?? [])))
    const size = { kind: 'delivered', width, height, look } as const
    const key = `packed ${++made}`
    const [seen] = want.shown === null ? [] : files
    const exact = seen?.exact?.() ?? null
    const loss = seen && exact && fileLoss(exact, seen.image, seen.record)
    if (want.difference && seen && exact && want.shown !== null) {
      const { picture, gain } = differenceOf(seen, exact, want.shown)
      return { ...size, textures: { shown: { key, ...picture } }, loss: loss ?? null, gain }
    }
    const textures = texturesFor(want.shown, files, { channels, heightMetres, look }, key)
    return { ...size, textures, loss: loss ?? null, gain: null }
  }

  private async packNow(
    { document, width, want, fields, keys, id }: PackTask,
    { packing, sharpen, dither }: { packing: unknown; sharpen: Sharpening; dither: boolean },
    channels: ReadonlyMap<string, Channel>,
  ): Promise<AskedFile[]> {
    const { heightMetres } = document
    const plans = plansOf(packing, want, [...channels.values()])
    const { height } = fields.values().next().value!
    const mip = want.kind === 'delivered' ? want.mip : 0
    const keepsCoverage = document.surface.opacity === 'cut-out'
    const files: AskedFile[] = []
    const levels = new Map<boolean, MipLevel>()
    /** Channels as a file with mips of its own takes them. */
    const levelOf = (roughens: boolean): MipLevel => {
      const size = { width, height, level: mip }
      const level =
        levels.get(roughens) ?? channelsAtMip(fields, size, [...channels.values()], { keepsCoverage, roughens })
      levels.set(roughens, level)
      return level
    }
    for (const plan of plans) {
      const sources = plan.slots.map((slot) => ('channel' in slot ? keys.get(slot.channel) : null))
      // What makes a file’s own mips: others are made of it by an engine.
      const own = plan.mips ? [mip, keepsCoverage, plan.roughens && keys.get('normal')] : null
      const key = JSON.stringify([plan, sources, width, height, sharpen, dither, heightMetres, own])
      const whole = (): PackWhole => ({
        ...(plan.mips ? levelOf(plan.roughens === true) : { width, height, fields }),
        ...{ channels, heightMetres, dither, host: this.host },
      })
      let file = this.files.get(key)
      if (!file) {
        file = { ...(await packedImage(plan, `${plan.map}.${plan.format}`, whole())), key }
        await this.checkWanted({ id })
      }
      // The newest comes last.
      this.files.delete(key)
      this.files.set(key, file)
      const asked = { ...file, kept: file, exact: () => exactImage(plan, whole()) }
      files.push(plan.mips ? asked : mipped(asked, mip))
    }
    this.forgetOld()
    return files
  }

  private forgetOld(): void {
    let bytes = [...this.files.values()].reduce((sum, { image }) => sum + image.values.byteLength, 0)
    for (const [key, { image }] of this.files) {
      if (bytes <= KEPT_BYTES) return
      this.files.delete(key)
      bytes -= image.values.byteLength
    }
  }

  private async fetchAll(
    { delivery, record: json }: { delivery: string; record: unknown },
    want: PackRequest['want'],
  ): Promise<AskedFile[]> {
    const mip = want.kind === 'delivered' ? want.mip : 0
    const seen = parseRecord(json)
      .files.map((record, index) => ({ record, index }))
      .filter(({ record: { map, slots } }) => isSeen(want, map, slots))
    return Promise.all(
      seen.map(async ({ record, index }) => ({
        record,
        image: await this.host.fetchFile(delivery, index, mip),
        ...{ key: null, kept: null, exact: null },
      })),
    )
  }

  private async reportOn(
    { id, document, fields, keys }: PackTask,
    size: { width: number; height: number },
    files: readonly AskedFile[],
    channels: ReadonlyMap<string, Channel>,
  ): Promise<Pick<PackingPreview, 'report' | 'histograms'>> {
    const { heightMetres, emissionStrength } = document
    const over = document.domain.kind
    // What channels are called stands in what is told of them.
    const told = [...channels.values()]
    const key = JSON.stringify([
      files.map((file) => file.key),
      [...keys],
      size,
      told,
      heightMetres,
      emissionStrength,
      document.domain,
    ])
    if (this.report?.key === key) return this.report.made
    const part = checkedPart(document, await this.layoutOf(document))
    const subject = subjectOfFiles(
      files.map(({ record, image }) => ({
        record: { ...record, bytes: 0, sha256: '' },
        image,
        marked: formatNamed(record.format)?.isMarkedSrgb ? record.transfer === 'srgb' : null,
      })),
      channels,
      heightMetres,
      { ...size, before: fields, emissionStrength, over, ...(part ? { part } : {}) },
    )
    const held = subject.channels.filter(({ channel }) =>
      files.some(({ record }) => record.slots.some((slot) => slot.channel === channel.id)),
    )
    const histograms = channelHistograms(held)
    const report = await checkReport(checks, subject, () => this.checkWanted({ id }))
    const reported = { report, histograms }
    this.report = { key, made: reported }
    return reported
  }

  /** How the part is laid out that a material lies on; undefined on a tile, and where its mesh cannot be read. */
  private async layoutOf(document: MaterialDocument): Promise<PartLayout | undefined> {
    const on = partOf(document)
    if (!on) return undefined
    const key = JSON.stringify([on.mesh, on.part, on.uvSet])
    if (this.layout?.key !== key) {
      const made = this.host.fetchMesh(on.mesh).then((mesh) => partLayoutOf(mesh, on.part, on.uvSet))
      this.layout = { key, made }
    }
    try {
      return await this.layout.made
    } catch {
      this.layout = null
      return undefined
    }
  }

  private async checkWanted({ id }: { id: number }): Promise<void> {
    await this.host.pause()
    if (!this.wanted.has(id)) throw new GristError('cancelled', 'Something newer is wanted.')
  }
}

/** The files of a packing that have to do with what is looked at. Throws packing-invalid. */
export const plansOf = (packing: unknown, want: PackRequest['want'], channels: readonly Channel[]): PackedFile[] =>
  filesOf(parsePacking(packing), channels).filter(({ map, slots }) => isSeen(want, map, slots))

/** Whether a file has to do with what is looked at. */
function isSeen(want: PackRequest['want'], map: string, slots: readonly object[]): boolean {
  if (want.kind === 'packing' || want.shown === null) return true
  const { shown } = want
  if (isFileOutput(shown)) return map === shown.map
  return slots.some((slot) => 'channel' in slot && slot.channel === formatOutput(shown))
}

/** A file as an engine makes its mips. */
function mipped(file: AskedFile, mip: number): AskedFile {
  if (mip === 0) return file
  const { record, image, exact } = file
  return {
    ...{ record, image: mipOf(image, mip, record), key: null, kept: null },
    exact: exact && (() => mipOf(exact(), mip, record)),
  }
}

/** What is lost in a file as a picture, bottom row first: of all its slots, or of one. */
function differenceOf(
  { image }: AskedFile,
  exact: RasterImage,
  shown: StageOutput,
): { picture: DisplayBytes; gain: number } {
  const of = (one: RasterImage): RasterImage => (shown.kind === 'slot' ? planeOf(one, shown.slot) : one)
  const { pixels, gain } = lossPicture(of(exact), of(image))
  const { width, height } = image
  const flipped = new Uint8ClampedArray(pixels.length)
  const row = width * 4
  for (let y = 0; y < height; y++) flipped.set(pixels.subarray(y * row, (y + 1) * row), (height - 1 - y) * row)
  return { picture: { width, height, pixels: flipped }, gain }
}

/** One plane of an image as a grey one. */
function planeOf(image: RasterImage, plane: number): RasterImage {
  const { width, height, channels, values } = image
  const at = Math.min(plane, channels - 1)
  return {
    ...image,
    channels: 1,
    values: Float32Array.from({ length: width * height }, (_, i) => values[i * channels + at]!),
  }
}

/** One slot as a grey of 0–1, as its number stands in the file; of floats as a file of whole numbers would show it. */
function slotField(
  { record, image }: AskedFile,
  s: number,
  channels: ReadonlyMap<string, Channel>,
  heightMetres: number,
): Field {
  const { width, height, values, float } = image
  const field = createField('grey', width, height)
  const slot = record.slots[s]!
  const channel = slot.channel === null ? undefined : channels.get(slot.channel)
  const show = !float
    ? null
    : channel?.type === 'normal'
      ? (v: number) => v * 0.5 + 0.5
      : channel?.isHeight
        ? (v: number) => v / heightMetres + 0.5
        : channel?.transfer === 'srgb'
          ? encodedTexel
          : null
  const step = image.channels
  const at = Math.min(s, step - 1)
  const plane = field.planes[0]!
  if (show) for (let i = 0; i < plane.length; i++) plane[i] = show(values[i * step + at]!)
  else for (let i = 0; i < plane.length; i++) plane[i] = values[i * step + at]!
  return field
}

function slotFields(file: AskedFile, channels: ReadonlyMap<string, Channel>, heightMetres: number): Field[] {
  return file.record.slots.map((_, s) => slotField(file, s, channels, heightMetres))
}

function picturesOf(file: AskedFile, channels: ReadonlyMap<string, Channel>, heightMetres: number): FilePictures {
  const slots = slotFields(file, channels, heightMetres).map((field) => reduceField(field, SWATCH))
  return {
    whole: coloured(slots, false),
    slots: slots.map((field) => displayBytes(field)),
    loss: file.exact && fileLoss(file.exact(), file.image, file.record),
  }
}

/** Red, green and blue of three greys; of one, grey. */
function coloured(slots: readonly Field[], flip: boolean): DisplayBytes {
  const [red, green = red, blue = red] = slots.map((field) => ({
    field,
    plane: field.planes[0]!,
    kind: 'value' as const,
  }))
  return rgbaBytes([red!, green!, blue!, 255], flip)
}

function texturesFor(
  shown: StageOutput | null,
  files: readonly AskedFile[],
  {
    channels,
    heightMetres,
    look,
  }: { readonly channels: ReadonlyMap<string, Channel>; readonly heightMetres: number; readonly look: Look },
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
  for (const { id, type, backdrop, derived } of channels.values())
    if (
      !found.has(id) &&
      (!derived || (shown && formatOutput(shown) === id)) &&
      !(isTangentNormal(id) && found.has('object-normal'))
    )
      found.set(id, uniformField(type, width, height, backdrop))
  return Object.fromEntries(
    texturesOf(found.keys(), { lit: true, look, shown: shown && formatOutput(shown) }).map((maker) => [
      maker.slot,
      { key, ...makeTexture(maker, found) },
    ]),
  )
}
