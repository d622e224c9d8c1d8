import type { Sharpening } from '../document/sharpening'
import { depthOf, writtenFormat } from './format-registry'
import type { BandCoders, CodeHost, CodedBand, FilePlan } from './code-band'
import { codeBand, fileRows } from './code-band'
import type { FileAssembler, FileRows, FileShape, FormatHost } from './file-format'
import { canonicalJson, hashText, startHash } from '../hash'
import type { KeptFile, MapTime } from './kept-file'
import { fileKey, sharedOut } from './kept-file'
import type { ChannelSource, FieldRoom } from './channel-source'
import { frameSource } from './frame-source'
import type { Field } from '../field/field'
import type { Band } from '../engine/planned-step'
import type { EvaluationReport } from '../engine/evaluate'
import { GristError } from '../errors'
import type { CompressZstd } from './bytes/zstd'
import type { EncodeJpeg } from './jpeg-codec'
import type { ByteWriter } from './bytes/byte-writer'
import { channelOutput } from '../document/address'
import { deliverableChannels, isTangentNormal } from '../document/channels'
import type { Channel } from '../document/channels'
import type { MaterialDocument } from '../document/document'
import type { MipLevel } from './mip-chain'
import { MipChain } from './mip-chain'
import type { PackedFile, Packing } from './packing'
import { fileNames, filesOf, mayDither, partNames } from './packing'
import type { DeliveryRecord, RecordFile, RecordNames } from './record'
import { recordSlots } from './record'

/** A file being written; `close` tells its length and hash. */
export interface OpenFile {
  readonly output: ByteWriter
  close(): Promise<{ bytes: number; sha256: string }>
}

export interface DeliverRequest {
  readonly packing: Packing
  readonly width: number
  readonly dither: boolean
  /** How much channels are sharpened. */
  readonly sharpen?: Sharpening
  /** What the name pattern may ask for beyond the material’s name and the size. */
  readonly names?: RecordNames
  readonly application: string
  /** SHA-256 of every image the document names, by the name used there. */
  readonly assets: Readonly<Record<string, string>>
  readonly budgetBytes?: number
  readonly open: (name: string) => OpenFile
  /** Writes a JPEG; needed for packings that ask for one. */
  readonly encodeJpeg?: EncodeJpeg
  /** Compresses KTX2; needed for packings that ask for one. */
  readonly compressZstd?: CompressZstd
  /** Files of earlier deliveries by their keys: those that would hold the same are taken as they are. */
  readonly kept?: ReadonlyMap<string, KeptFile>
  /** Threads that pack and code rows; on this thread where there are none. */
  readonly coders?: BandCoders
  readonly onProgress?: (ratio: number) => void
  readonly isCancelled?: () => boolean
}

/**
 * Evaluates a material and writes the files of a packing, band by band; files that are kept are copied, and what only they need
 * is not made.
 * Throws size-invalid, packing-invalid, memory-budget, asset-missing, cancelled; files begun stay open then.
 */
export async function deliver(
  from: ChannelSource,
  request: DeliverRequest,
): Promise<{ record: DeliveryRecord; report: EvaluationReport; times: MapTime[] }> {
  const { packing, sharpen = 0 } = request
  const material = packing.frames ? frameSource(from, packing.frames) : from
  const { document } = material
  const { width, height } = material.sizeAt(request.width)
  const channels = new Map(deliverableChannels(document).map((channel) => [channel.id, channel]))
  const files = filesOf(packing, [...channels.values()])
  const names = fileNames(packing.pattern, files, {
    ...{ ...partNames(document), ...request.names },
    ...{ material: document.name, size: width },
  })
  const normals = [...channels.keys()].filter(isTangentNormal)
  const asking = (of: readonly PackedFile[]) => ({
    outputs: [...new Set(of.flatMap((file) => [...channelsIn(file), ...(file.roughens ? normals : [])]))].map(
      channelOutput,
    ),
    width,
    options: { sharpen, bleeds: packing.bleeds },
  })
  const contents = material.contentKeys(asking(files))
  const { heightMetres } = document
  const coders = request.coders ?? codersHere(request)
  const plans = files.map((file): FilePlan => {
    const format = writtenFormat(file.format)
    const shape: FileShape = {
      width,
      height,
      channels: file.slots.length as FileShape['channels'],
      depth: depthOf(format, file.bits)!,
      srgb: file.transfer === 'srgb',
      ...blocksOf(file),
    }
    if (file.block && (width % 4 !== 0 || height % 4 !== 0))
      throw new GristError(
        'size-invalid',
        `${file.map}: blocks are 4 × 4 texels, but it would have ${width} × ${height}. Choose a size whose sides are multiples of 4.`,
      )
    const dither = request.dither && mayDither(file)
    return { file, shape, channels, heightMetres, dither }
  })
  const keys = plans.map((plan) => fileKey(plan, contents))
  const kept = keys.map((key) => request.kept?.get(key) ?? null)
  const writers = plans.map((plan, i) =>
    kept[i] ? null : new FileWriter(plan, keys[i]!, request.open(names[i]!), request),
  )
  const made = writers.filter((writer) => writer !== null)
  const asked = asking(made.map(({ plan }) => plan.file))
  const { budgetBytes, onProgress, isCancelled } = request
  const chain = chainFor(made, { width, height }, channels, document, coders)
  const evaluated = (ratio: number): void => onProgress?.(chain ? ratio * (1 - MIPS_SHARE) : ratio)
  let coding = 0
  const begun = performance.now()
  let report = NOTHING_MADE
  try {
    if (made.length > 0)
      report = await material.evaluateBands(
        { ...asked, budgetBytes, memory: roomOf(coders), onProgress: evaluated, isCancelled },
        async (fields, band) => {
          const from = performance.now()
          await writeBand(made, fields, band, coders, isCancelled)
          chain?.add(fields, band.top, band.rows)
          coding += performance.now() - from
        },
      )
    if (chain) {
      const from = performance.now()
      await writeMips(made, chain, coders, request)
      coding += performance.now() - from
    }
  } finally {
    chain?.dispose()
  }
  const evaluating = performance.now() - begun - coding
  const times = timesOf(plans, writers, { coding, evaluating, work: material.workOf(asked) })
  const written: RecordFile[] = []
  for (const [i, writer] of writers.entries()) {
    const before = performance.now()
    written.push(writer ? await writer.finish(names[i]!) : await copyKept(kept[i]!, names[i]!, request))
    if (!writer) times[i] = { ...times[i]!, seconds: (performance.now() - before) / 1000 }
  }
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
      file.slots.some((s) => 'channel' in s && isTangentNormal(s.channel) && s.component === 1 && s.invert),
    )
      ? 'down'
      : 'up',
    heightMetres,
    keys: contents,
    assets: { ...request.assets },
    ...(from.joint ? { joint: [...from.joint] } : {}),
    files: written,
  }
  return { record, report, times }
}

/** What an evaluation of nothing tells. */
const NOTHING_MADE: EvaluationReport = { evaluated: [], reused: 0, bands: 0, forecastBytes: 0, peakBytes: 0 }

const channelsIn = ({ slots }: PackedFile): string[] =>
  slots.flatMap((slot) => ('channel' in slot ? [slot.channel] : []))

/** Copies a kept file under its new name. Throws file-invalid where it does not hold what its record says. */
async function copyKept({ file, copy }: KeptFile, name: string, request: DeliverRequest): Promise<RecordFile> {
  if (request.isCancelled?.()) throw new GristError('cancelled', 'The work was cancelled.')
  const open = request.open(name)
  await copy(open.output)
  const { bytes, sha256 } = await open.close()
  if (bytes !== file.bytes || sha256 !== file.sha256)
    throw new GristError(
      'file-invalid',
      'The file of an earlier delivery is not what its record says; make all files anew.',
      { file: name },
    )
  // Members in the order in which a file that was made has them: what stores records may have changed it.
  const { map, format, bits, transfer, texels, key, block, quality, mips } = file
  const slots = file.slots.map(({ channel, component, inverted, constant, min, max }) => ({
    channel,
    component,
    inverted,
    constant,
    min,
    max,
  }))
  const form = { ...(block ? { block } : {}), ...(quality ? { quality } : {}), ...(mips ? { mips } : {}) }
  return { name, map, format, bits, transfer, slots, texels, key, ...form, bytes, sha256 }
}

/**
 * The wall time of each map: of evaluating, by the forecast work of its channels, which several maps may share; of packing and
 * coding, by what its strips took.
 */
function timesOf(
  plans: readonly FilePlan[],
  writers: readonly (FileWriter | null)[],
  { coding, evaluating, work }: { coding: number; evaluating: number; work: Readonly<Record<string, number>> },
): MapTime[] {
  const users = (channel: string): number =>
    plans.filter(({ file }, i) => writers[i] && channelsIn(file).includes(channel)).length
  const weights = plans.map(({ file }, i) =>
    writers[i] ? [...new Set(channelsIn(file))].reduce((sum, one) => sum + work[one]! / users(one), 0) : 0,
  )
  const evaluated = sharedOut(evaluating, weights)
  const coded = sharedOut(
    coding,
    writers.map((writer) => writer?.milliseconds ?? 0),
  )
  return plans.map(({ file }, i) => ({
    map: file.map,
    seconds: writers[i] ? (evaluated[i]! + coded[i]!) / 1000 : 0,
    kept: !writers[i],
  }))
}

/** What of a file's description its shape tells, as far as it is there. */
const blocksOf = ({ block, quality, mips }: PackedFile): Pick<FileShape, 'block' | 'quality' | 'mips'> => ({
  ...(block ? { block } : {}),
  ...(quality ? { quality } : {}),
  ...(mips ? { mips } : {}),
})

/** Mips of all channels that files with mips hold; null where there is none of them. */
function chainFor(
  writers: readonly FileWriter[],
  { width, height }: { width: number; height: number },
  channels: ReadonlyMap<string, Channel>,
  document: MaterialDocument,
  coders: BandCoders,
): MipChain | null {
  const files = writers.map(({ plan }) => plan.file).filter(({ mips }) => mips)
  if (files.length === 0) return null
  const used = new Set(files.flatMap(channelsIn))
  const needsNormals = files.some(({ roughens }) => roughens)
  const own = [...channels.values()].filter(({ id }) => used.has(id) || (needsNormals && isTangentNormal(id)))
  const rules = { keepsCoverage: document.surface.opacity === 'cut-out' }
  return new MipChain(width, height, own, rules, roomOf(coders))
}

/** The memory that coders read, where they cannot read any. */
const roomOf = ({ allocate, free }: BandCoders): FieldRoom | undefined => allocate && free && { allocate, free }

/** Share of the work that mips are: they have a third as many texels as the picture. */
const MIPS_SHARE = 0.25

/** Codes the mip levels of all files that hold them, in strips as the pictures are. */
async function writeMips(
  writers: readonly FileWriter[],
  chain: MipChain,
  coders: BandCoders,
  { onProgress, isCancelled }: Pick<DeliverRequest, 'onProgress' | 'isCancelled'>,
): Promise<void> {
  const [plain, rough] = [false, true].map((roughens) =>
    writers.filter(({ plan: { file } }) => file.mips && (file.roughens ?? false) === roughens),
  ) as [FileWriter[], FileWriter[]]
  let done = 0
  for (const [own, roughens] of [
    [plain, false],
    [rough, true],
  ] as const) {
    if (own.length === 0) continue
    for (const level of chain.levels({ roughens })) {
      for (const writer of own) await writeMip(writer, level, coders, isCancelled)
      // Of each level a quarter of what was left is left.
      done += (own.length / (plain.length + rough.length)) * (3 / 4 ** level.level)
      onProgress?.(1 - MIPS_SHARE + MIPS_SHARE * Math.min(1, done))
    }
  }
}

/** Codes a level of a file, as many strips at a time as there are threads. */
async function writeMip(
  writer: FileWriter,
  { width, height, fields }: MipLevel,
  coders: BandCoders,
  isCancelled: () => boolean = () => false,
): Promise<void> {
  const shape = { ...writer.plan.shape, width, height }
  const plan = { ...writer.plan, shape }
  const strips = stripsOf(shape, 0, height)
  const coded: CodedBand[] = []
  for (let i = 0; i < strips.length; i += coders.threads) {
    if (isCancelled()) throw new GristError('cancelled', 'The work was cancelled.')
    const work = strips
      .slice(i, i + coders.threads)
      .map(({ top, rows }) => coders.code({ plan, fields: writer.fieldsOf(fields), top, rows, above: null }))
    // Nothing reads the fields any more once this returns.
    await Promise.allSettled(work)
    coded.push(...(await Promise.all(work)))
  }
  writer.addMip(coded)
}

/** Bytes of rows that are coded in one go, about; blocks take longer. */
const STRIP = 4 << 20
const BLOCK_STRIP = 1 << 18
/** Strips begin at multiples of so many rows: no format codes more of them together. */
const ROWS = 16

/** Runs of rows that are coded in one go: the same whatever the bands, where those are multiples of them. */
function stripsOf(
  { width, channels, depth, block }: FileShape,
  from: number,
  end: number,
): { top: number; rows: number }[] {
  const strip = block ? BLOCK_STRIP : STRIP
  const max = Math.max(ROWS, Math.floor(strip / (width * channels * (depth.bits / 8)) / ROWS) * ROWS)
  const strips: { top: number; rows: number }[] = []
  for (let top = from; top < end;) {
    const next = Math.min(end, (Math.floor(top / max) + 1) * max)
    strips.push({ top, rows: next - top })
    top = next
  }
  return strips
}

/** Lets the host hear signals and messages while files are being coded. */
const breathe = (): Promise<void> => new Promise((resolve) => setTimeout(resolve))

const codersHere = (host: CodeHost): BandCoders => ({
  threads: 1,
  code: async (task) => {
    await breathe()
    return codeBand(task, host)
  },
})

/** Codes a band of all files, as many strips at a time as there are threads and some more; each file gets its in order. */
async function writeBand(
  writers: readonly FileWriter[],
  fields: ReadonlyMap<string, Field>,
  { top, rows }: Band,
  coders: BandCoders,
  isCancelled: () => boolean = () => false,
): Promise<void> {
  const strips = writers.flatMap((writer) =>
    stripsOf(writer.plan.shape, top, top + rows).map((strip) => ({ writer, ...strip })),
  )
  strips.sort((a, b) => a.top - b.top)
  const atWork = new Set<Promise<void>>()
  try {
    for (const { writer, top: from, rows: count } of strips) {
      if (isCancelled()) throw new GristError('cancelled', 'The work was cancelled.')
      const above = from === top ? writer.lastRow : null
      const task = { plan: writer.plan, fields: writer.fieldsOf(fields), top: from, rows: count, above }
      const work: Promise<void> = writer.add(coders.code(task), from, count).finally(() => atWork.delete(work))
      atWork.add(work)
      // Failures are thrown below.
      work.catch(() => {})
      if (atWork.size > 2 * coders.threads) await Promise.race(atWork)
    }
  } finally {
    // Nothing reads the fields any more once this returns.
    await Promise.allSettled(atWork)
  }
  for (const writer of writers) await writer.bandDone(fields, top + rows - 1)
}

/** One file on its way: its coded strips put together in order, and what the record tells of them. */
class FileWriter {
  /** The last row of the band before. */
  lastRow: FileRows | null = null
  /** What its strips took, on all threads together. */
  milliseconds = 0
  private readonly ranges: { min: number; max: number }[]
  private readonly texels = startHash()
  private readonly file: FileAssembler
  private tail: Promise<void> = Promise.resolve()

  constructor(
    readonly plan: FilePlan,
    private readonly key: string,
    private readonly open: OpenFile,
    host: FormatHost,
  ) {
    this.ranges = plan.file.slots.map(() => ({ min: Infinity, max: -Infinity }))
    this.file = writtenFormat(plan.file.format).write.start(plan.shape, open.output, host)
  }

  /** The channels that the file holds. */
  fieldsOf(fields: ReadonlyMap<string, Field>): ReadonlyMap<string, Field> {
    const own = this.plan.file.slots.flatMap((slot) => ('channel' in slot ? [slot.channel] : []))
    return new Map(own.map((channel) => [channel, fields.get(channel)!]))
  }

  /** Adds a strip once it is coded and those before it are there. */
  async add(coding: Promise<CodedBand>, top: number, rows: number): Promise<void> {
    const before = this.tail
    this.tail = (async () => {
      const { coded, ranges, digests, milliseconds } = await coding
      this.milliseconds += milliseconds
      await before
      this.file.add(coded, { top, rows })
      this.texels.update(digests)
      ranges.forEach(({ min, max }, s) => {
        const range = this.ranges[s]!
        range.min = Math.min(range.min, min)
        range.max = Math.max(range.max, max)
      })
    })()
    await this.tail
  }

  /** Adds a mip level; all rows of the file and the levels before it are there. */
  addMip(strips: readonly CodedBand[]): void {
    for (const { milliseconds } of strips) this.milliseconds += milliseconds
    this.file.addMip!({ parts: strips.flatMap(({ coded }) => coded.parts) })
  }

  async bandDone(fields: ReadonlyMap<string, Field>, lastRow: number): Promise<void> {
    await this.tail
    if (lastRow + 1 < this.plan.shape.height) this.lastRow = fileRows(this.plan, fields, lastRow, 1)
  }

  async finish(name: string): Promise<RecordFile> {
    await this.file.end()
    const { file, shape } = this.plan
    const { map, format, bits, transfer, slots } = file
    return {
      name,
      map,
      format,
      bits,
      transfer: shape.depth.float ? 'raw' : transfer,
      slots: recordSlots(slots, this.ranges),
      texels: this.texels.digest(),
      key: this.key,
      ...blocksOf(this.plan.file),
      ...(await this.open.close()),
    }
  }
}
