import { canonicalJson, hashText } from '../hash'
import type { BandSink, EvaluateRequest, EvaluationReport } from '../engine/evaluate'
import { GristError } from '../errors'
import { startExr } from './formats/exr'
import type { EncodeJpeg } from './formats/jpeg'
import { startJpeg } from './formats/jpeg'
import { startPng } from './formats/png'
import { quantise } from './formats/quantise'
import type { RowWriter, Sink } from './formats/byte-writer'
import { startTga } from './formats/tga'
import type { MaterialDocument } from '../document/document'
import type { OutputOptions } from '../compose/outputs'
import type { Output } from '../document/address'
import { channelOutput } from '../document/address'
import { channelsOf } from '../document/channels'
import type { PackContext, SlotRange } from './pack'
import { packRows } from './pack'
import type { PackedFile, Packing } from './packing'
import { fileNames, filesOf, mayDither } from './packing'
import type { DeliveryRecord, RecordFile, RecordNames } from './record'
import { recordSlots } from './record-slots'

/** A file being written; `close` tells its length and hash. */
export interface OpenFile {
  readonly sink: Sink
  close(): Promise<{ bytes: number; sha256: string }>
}

/** Where channels come from: an open material (core/material/session.ts). */
export interface ChannelSource {
  readonly document: MaterialDocument
  sizeAt(width: number): { width: number; height: number }
  evaluateBands(request: ChannelRequest, sink: BandSink): Promise<EvaluationReport>
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
  readonly onProgress?: (share: number) => void
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
        {
          ...request,
          dither: request.dither && mayDither(file, channels),
        },
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
      file.slots.some((s) => 'channel' in s && s.channel === 'normal' && s.component === 1 && s.invert),
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

function needed(encode: EncodeJpeg | undefined): EncodeJpeg {
  if (!encode) throw new GristError('packing-invalid', 'JPEG files cannot be written here.')
  return encode
}

class FileWriter {
  private readonly ranges: SlotRange[]
  private readonly put: (values: Float32Array, top: number) => void
  private readonly writer: RowWriter<never>
  private readonly float: boolean

  constructor(
    private readonly file: PackedFile,
    private readonly open: OpenFile,
    size: { width: number; height: number },
    request: Pick<DeliverRequest, 'dither' | 'encodeJpeg'>,
  ) {
    const { dither, encodeJpeg } = request
    const channels = file.slots.length
    this.ranges = file.slots.map(() => ({ min: Infinity, max: -Infinity }))
    this.float = file.format === 'exr'
    if (file.format === 'exr') {
      const names = channels === 1 ? ['Y'] : ['R', 'G', 'B', 'A'].slice(0, channels)
      const exr = startExr({ ...size, channels: names, pixel: file.bits === 32 ? 'float' : 'half' }, open.sink)
      this.put = exr.rows
      this.writer = exr
      return
    }
    const bits = file.bits === 16 ? 16 : 8
    const form = { bits, channels, width: size.width, dither } as const
    const writer =
      file.format === 'tga'
        ? startTga({ ...size, channels: channels as 3 | 4 }, open.sink)
        : file.format === 'jpg'
          ? startJpeg({ ...size, channels: channels as 1 | 3 }, open.sink, needed(encodeJpeg))
          : startPng({ ...size, channels: channels as 1 | 3 | 4, bits, srgb: file.transfer === 'srgb' }, open.sink)
    this.put = (values, top) => (writer as RowWriter<Uint8Array | Uint16Array>).rows(quantise(values, { ...form, top }))
    this.writer = writer
  }

  rows(context: Omit<PackContext, 'float'>): void {
    this.put(packRows(this.file, { ...context, float: this.float }, this.ranges), context.top)
  }

  async finish(name: string): Promise<RecordFile> {
    await this.writer.end()
    const { map, format, bits, transfer, slots } = this.file
    return {
      name,
      map,
      format,
      bits,
      transfer: this.float ? 'raw' : transfer,
      slots: recordSlots(slots, this.ranges),
      ...(await this.open.close()),
    }
  }
}
