import type { BandSink } from '../engine/evaluate'
import { GristError } from '../errors'
import { canonicalJson, hashText } from '../hash'
import type { Field } from '../field/field'
import { fieldBytes } from '../field/field'
import type { ChannelRequest, ChannelSource } from './channel-source'
import { isOpened } from './channel-source'
import { FrameSheets, frameDocuments, frameWidth } from './frames'
import type { Frames } from './packing'

/**
 * The sheets of a packing with frames as a delivery takes channels: all frames are evaluated, and come as one band. The material is
 * as it was afterwards. Throws packing-invalid and size-invalid, and what evaluating throws.
 */
export function frameSource(material: ChannelSource, frames: Frames): ChannelSource {
  if (!isOpened(material))
    throw new GristError('packing-invalid', 'Frames turn a dial of one material, and several share these files.')
  const { document } = material
  const documents = frameDocuments(document, frames)
  const count = documents.length
  const within = <T>({ width, memory: _, ...request }: ChannelRequest): ChannelRequest & T =>
    ({ ...request, width: frameWidth(width, frames) }) as ChannelRequest & T
  const each = async (work: (k: number) => Promise<void>): Promise<void> => {
    try {
      for (const [k, one] of documents.entries()) {
        material.update(one)
        await work(k)
      }
    } finally {
      material.update(document)
    }
  }
  return {
    document,
    sizeAt: (width) => {
      const frame = material.sizeAt(frameWidth(width, frames))
      return { width, height: frame.height * frames.rows }
    },
    workOf: (request) => material.workOf(request),
    contentKeys: (request) => {
      const keys = documents.map((one) => {
        material.update(one)
        return material.contentKeys(within(request))
      })
      material.update(document)
      return Object.fromEntries(
        Object.keys(keys[0]!).map((name) => [
          name,
          hashText(canonicalJson([frames.columns, keys.map((of) => of[name]!)])),
        ]),
      )
    },
    evaluateBands: async (request, sink: BandSink) => {
      const { onProgress, isCancelled } = request
      const frame = within(request)
      const sheets = new FrameSheets(frames, material.sizeAt(frame.width), request.memory?.allocate)
      const done = { evaluated: [] as string[], reused: 0, forecastBytes: 0, peakBytes: 0 }
      try {
        await each(async (k) => {
          if (isCancelled?.()) throw new GristError('cancelled', 'The work was cancelled.')
          const { fields, report } = await material.evaluate({
            ...frame,
            onProgress: (ratio) => onProgress?.((k + ratio) / count),
          })
          if (k === 0) checkRoom(fields, count, request.budgetBytes)
          sheets.add(k, fields)
          done.evaluated.push(...report.evaluated)
          done.reused += report.reused
          done.forecastBytes = Math.max(done.forecastBytes, report.forecastBytes)
          done.peakBytes = Math.max(done.peakBytes, report.peakBytes)
        })
        const [some] = sheets.fields.values()
        await sink(sheets.fields, { top: 0, rows: some!.height })
      } finally {
        if (request.memory) for (const { planes } of sheets.fields.values()) planes.forEach(request.memory.free)
      }
      return { ...done, bands: 1 }
    },
  }
}

/** Throws memory-budget where sheets of these fields would take more than half of what there is. */
function checkRoom(fields: ReadonlyMap<string, Field>, count: number, budget = Infinity): void {
  const bytes = [...fields.values()].reduce((sum, { type, width, height }) => sum + fieldBytes(type, width, height), 0)
  if (bytes * count > budget / 2)
    throw new GristError(
      'memory-budget',
      `The whole sheet of frames would take ${Math.ceil((bytes * count) / 2 ** 20)} MB of ${Math.floor(budget / 2 ** 20)} MB. Choose a smaller size.`,
    )
}
