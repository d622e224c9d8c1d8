import { formatOutput } from '../document/address'
import { deliverableChannels } from '../document/channels'
import type { Channel } from '../document/channels'
import { partOf } from '../document/domain'
import type { JointScales } from '../document/joint-document'
import { jointDocument, jointScales } from '../document/joint-document'
import type { EvaluationReport } from '../engine/evaluate'
import { GristError } from '../errors'
import type { Allocate, Field } from '../field/field'
import { createField, fieldBytes, rowStart } from '../field/field'
import { canonicalJson, hashText } from '../hash'
import type { PickedIds } from '../picked-ids'
import type { ChannelRequest, ChannelSource, JointMember } from './channel-source'

/** Who has which texels of a file set: the number of a material for each texel, and what that comes from. */
export interface SharedOut {
  readonly members: readonly JointMember[]
  of(width: number, height: number): Promise<Uint8Array>
}

/**
 * Several materials as one, each with its own texels: parts that share a tile of UVs, or IDs of a part. The document is that of the first
 * with the channels of all; heights and emission are brought to the largest depth and strength among them.
 * Throws packing-invalid where two have a channel of one name that hold different things.
 */
export function jointSource(sources: readonly ChannelSource[], shared: SharedOut): ChannelSource {
  const key = hashText(
    canonicalJson([
      CLAIMING,
      shared.members.map(({ part, ids }, k) => [part, ids ?? null, ...placeOf(sources[k]!, ids)]),
    ]),
  )
  const document = jointDocument(sources.map((one) => one.document))
  const channels = new Map(deliverableChannels(document).map((channel) => [channel.id, channel]))
  const asked = sources.map((one) => new Set(deliverableChannels(one.document).map(({ id }) => id)))
  const within = ({ memory: _, ...request }: ChannelRequest, k: number): ChannelRequest => ({
    ...request,
    outputs: request.outputs.filter((output) => output.kind === 'channel' && asked[k]!.has(output.channel)),
  })
  const scaleOf = (k: number) => jointScales(sources[k]!.document, document)
  return {
    document,
    joint: shared.members.map((member, k) => ({ ...member, document: sources[k]!.document })),
    sizeAt: (width) => sources[0]!.sizeAt(width),
    workOf: (request) => {
      const work: Record<string, number> = {}
      sources.forEach((one, k) => {
        for (const [name, value] of Object.entries(one.workOf(within(request, k))))
          work[name] = (work[name] ?? 0) + value
      })
      return work
    },
    contentKeys: (request) => {
      const keys = sources.map((one, k) => [one.contentKeys(within(request, k)), scaleOf(k)] as const)
      return Object.fromEntries(
        request.outputs.map((output) => {
          const name = formatOutput(output)
          const channel = channels.get((output as { channel: string }).channel)!
          const own = keys.map(([of, scale]) => [of[name] ?? null, scaleFor(channel, scale).by])
          return [name, hashText(canonicalJson([key, own]))]
        }),
      )
    },
    evaluateBands: async (request, sink) => {
      const { isCancelled, onProgress, budgetBytes, memory } = request
      const { width, height } = sources[0]!.sizeAt(request.width)
      const wanted = request.outputs.map((output) => channels.get((output as { channel: string }).channel)!)
      const bytes = wanted.reduce((sum, { type }) => sum + fieldBytes(type, width, height), width * height * 5)
      if (budgetBytes !== undefined && bytes > budgetBytes / 2)
        throw new GristError(
          'memory-budget',
          `The maps of ${sources.length} materials in one would take ${Math.ceil(bytes / 2 ** 20)} MB of ${Math.floor(budgetBytes / 2 ** 20)} MB. Choose a smaller size.`,
        )
      const owners = await shared.of(width, height)
      const fields = new Map(
        wanted.map((channel) => [channel.id, filledWith(channel, width, height, memory?.allocate)]),
      )
      const done = { evaluated: [] as string[], reused: 0, forecastBytes: 0, peakBytes: 0 }
      try {
        for (const [k, source] of sources.entries()) {
          if (isCancelled?.()) throw new GristError('cancelled', 'The work was cancelled.')
          const own = within(request, k)
          if (own.outputs.length === 0 || !owners.includes(k)) continue
          const scale = scaleOf(k)
          const report: EvaluationReport = await source.evaluateBands(
            {
              ...own,
              ...(budgetBytes === undefined ? {} : { budgetBytes: budgetBytes - bytes }),
              onProgress: (ratio) => onProgress?.((k + ratio) / sources.length),
            },
            (made, { top, rows }) => {
              for (const [id, field] of made)
                copyOwned(field, fields.get(id)!, { owners, k, by: scaleFor(channels.get(id)!, scale) }, top, rows)
            },
          )
          done.evaluated.push(...report.evaluated)
          done.reused += report.reused
          done.forecastBytes = Math.max(done.forecastBytes, report.forecastBytes + bytes)
          done.peakBytes = Math.max(done.peakBytes, report.peakBytes + bytes)
        }
        await sink(fields, { top: 0, rows: height })
        return { ...done, bands: 1 }
      } finally {
        if (memory) for (const { planes } of fields.values()) planes.forEach(memory.free)
      }
    },
  }
}

/** Goes up where texels are shared out another way. */
const CLAIMING = 1

/** What the place of a material's texels depends on. */
function placeOf({ document }: ChannelSource, ids: PickedIds | undefined): readonly unknown[] {
  const { mesh, uvSet, udim, data } = partOf(document) ?? {}
  return [mesh, uvSet, udim ?? null, ids ? (data?.[ids.kind] ?? null) : null]
}

/** What values of a channel are multiplied with, and about which value. */
interface Scale {
  readonly by: number
  readonly middle: number
}

const scaleFor = ({ id, isHeight }: Channel, { height, emission }: JointScales): Scale => {
  if (isHeight) return { by: height, middle: 0.5 }
  return { by: id === 'emission' ? emission : 1, middle: 0 }
}

/** A field with a channel's backdrop everywhere. */
function filledWith({ type, backdrop }: Channel, width: number, height: number, allocate?: Allocate): Field {
  const field = createField(type, width, height, undefined, allocate)
  field.planes.forEach((plane, p) => plane.fill(backdrop[p] ?? backdrop[0] ?? 0))
  return field
}

/** Copies those texels of some rows that are a material's own. */
function copyOwned(
  from: Field,
  to: Field,
  { owners, k, by: { by, middle } }: { owners: Uint8Array; k: number; by: Scale },
  top: number,
  rows: number,
): void {
  const { width } = to
  for (let p = 0; p < to.planes.length; p++) {
    const [source, target] = [from.planes[p]!, to.planes[p]!]
    for (let y = top; y < top + rows; y++) {
      const [a, b] = [rowStart(from, y), y * width]
      for (let x = 0; x < width; x++)
        if (owners[b + x] === k) {
          const value = source[a + x]!
          target[b + x] = by === 1 ? value : middle + (value - middle) * by
        }
    }
  }
}
