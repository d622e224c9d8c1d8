import { depthOf, writtenFormat } from './format-registry'
import type { FileRows, FileShape, FormatHost } from './file-format'
import { canonicalJson, hashText } from '../hash'
import type { BandSink, EvaluateRequest, EvaluationReport } from '../engine/evaluate'
import { GristError } from '../errors'
import type { EncodeJpeg } from './jpeg-codec'
import { quantise } from './bytes/quantise'
import type { RowWriter, ByteWriter } from './bytes/byte-writer'
import type { MaterialDocument } from '../document/document'
import type { OutputOptions } from '../compose/outputs'
import type { Output } from '../document/address'
import { channelOutput } from '../document/address'
import { channelsOf } from '../document/channels'
import type { PackContext, SlotRange } from './pack-rows'
import { packRows } from './pack-rows'
import type { PackedFile, Packing } from './packing'
import { fileNames, filesOf, mayDither } from './packing'
import type { DeliveryRecord, RecordFile, RecordNames } from './record'
import { recordSlots } from './record'

/** A file being written; `close` tells its length and hash. */
export interface OpenFile {
  readonly output: ByteWriter
  close(): Promise<{ bytes: number; sha256: string }>
}

/** Where channels come from: an open material (core/material/session.ts). */
export interface ChannelSource {
  readonly document: MaterialDocument
  sizeAt(width: number): { width: number; height: number }
  evaluateBands(request: ChannelRequest, output: BandSink): Promise<EvaluationReport>
  contentKeys(request: ChannelRequest): Record<string, string>
}

type ChannelRequest = Omit<EvaluateRequest, 'graph' | 'outputs'> & {
  readonly outputs: readonly Output[]
  readonly options?: OutputOptions
}

export interface DeliverRequest {
  readonly packing: Packing
  readonly width: number
  readonly dither: boolean
  /** How much base colour is sharpened, 0–1. */
  readonly sharpen?: number
  /** What the name pattern may ask for beyond the material’s name and the size. */
  readonly names?: RecordNames
  readonly application: string
  /** SHA-256 of every image the document names, by the name used there. */
  readonly assets: Readonly<Record<string, string>>
  readonly budgetBytes?: number
  readonly open: (name: string) => OpenFile
  /** Writes a JPEG; needed for packings that ask for one. */
  readonly encodeJpeg?: EncodeJpeg
  readonly onProgress?: (ratio: number) => void
  readonly isCancelled?: () => boolean
}

/**
 * Evaluates a material and writes the files of a packing, band by band.
 * Throws size-invalid, packing-invalid, memory-budget, asset-missing, cancelled; files begun stay open then.
 */
export async function deliver(
  material: ChannelSource,
  request: DeliverRequest,
): Promise<{ record: DeliveryRecord; report: EvaluationReport }> {
  const { packing, sharpen = 0 } = request
  const { document } = material
  const { width, height } = material.sizeAt(request.width)
  const channels = new Map(channelsOf(document).map((channel) => [channel.id, channel]))
  const files = filesOf(packing, [...channels.values()])
  const names = fileNames(packing.pattern, files, { ...request.names, material: document.name, size: width })
  const wanted = new Set(
    files.flatMap(({ slots }) => slots.flatMap((slot) => ('channel' in slot ? [slot.channel] : []))),
  )
  const asked = { outputs: [...wanted].map(channelOutput), width, options: { sharpen } }
  const writers = files.map(
    (file, i) =>
      new FileWriter(
        file,
        request.open(names[i]!),
        { width, height },
        request.dither && mayDither(file, channels),
        request,
      ),
  )
  const { heightMetres } = document
  const { budgetBytes, onProgress, isCancelled } = request
  const report = await material.evaluateBands(
    { ...asked, budgetBytes, onProgress, isCancelled },
    async (fields, band) => {
      for (let y = 0; y < band.rows; y += STRIP) {
        const strip = { top: band.top + y, rows: Math.min(STRIP, band.rows - y) }
        for (const writer of writers) writer.rows({ channels, fields, ...strip, width, heightMetres })
        await breathe()
        if (request.isCancelled?.()) throw new GristError('cancelled', 'The work was cancelled.')
      }
    },
  )
  const written: RecordFile[] = []
  for (const [i, writer] of writers.entries()) written.push(await writer.finish(names[i]!))
  const record: DeliveryRecord = {
    format: 'amber-grist/record',
    version: 1,
    application: request.application,
    document,
    documentSha256: hashText(canonicalJson(document)),
    packing,
    width,
    height,
    dither: request.dither,
    sharpen,
    names: request.names ?? {},
    normalY: files.some((file) =>
      file.slots.some(
        (s) => 'channel' in s && channels.get(s.channel)?.type === 'normal' && s.component === 1 && s.invert,
      ),
    )
      ? 'down'
      : 'up',
    heightMetres,
    keys: material.contentKeys(asked),
    assets: { ...request.assets },
    files: written,
  }
  return { record, report }
}

/** Rows handed to the formats at a time; keeps the packed values small beside the fields. */
const STRIP = 64

/** Lets the host hear signals and messages while files are being packed. */
const breathe = (): Promise<void> => new Promise((resolve) => setTimeout(resolve))

/** One file on its way: packed, rounded, written. */
class FileWriter {
  private readonly ranges: SlotRange[]
  private readonly shape: FileShape
  private readonly writer: RowWriter<FileRows>

  constructor(
    private readonly file: PackedFile,
    private readonly open: OpenFile,
    size: { width: number; height: number },
    private readonly dither: boolean,
    host: FormatHost,
  ) {
    const format = writtenFormat(file.format)
    this.ranges = file.slots.map(() => ({ min: Infinity, max: -Infinity }))
    this.shape = {
      ...size,
      channels: file.slots.length as FileShape['channels'],
      depth: depthOf(format, file.bits)!,
      srgb: file.transfer === 'srgb',
    }
    this.writer = format.write.start(this.shape, open.output, host)
  }

  rows(context: Omit<PackContext, 'float'>): void {
    const { depth, channels, width } = this.shape
    const values = packRows(this.file, { ...context, float: depth.float }, this.ranges)
    const form = { bits: depth.bits === 16 ? 16 : 8, channels, width, top: context.top, dither: this.dither } as const
    this.writer.rows(depth.float ? values : quantise(values, form))
  }

  async finish(name: string): Promise<RecordFile> {
    await this.writer.end()
    const { map, format, bits, transfer, slots } = this.file
    return {
      name,
      map,
      format,
      bits,
      transfer: this.shape.depth.float ? 'raw' : transfer,
      slots: recordSlots(slots, this.ranges),
      ...(await this.open.close()),
    }
  }
}
