import { deliverableChannels } from '#core/document/channels'
import { metresOf } from '#core/document/domain'
import { extname, join } from 'node:path'
import { encodeSrgb } from '#core/colour/srgb'
import { GristError } from '#core/errors'
import { formatOutput, parseOutput } from '#core/document/address'
import type { Field } from '#core/field/field'
import { rowStart, tileSize } from '#core/field/field'
import { startExr } from '#core/texture/formats/exr'
import { startNpy } from '#core/texture/bytes/npy'
import { startPng } from '#core/texture/formats/png'
import { quantise } from '#core/texture/bytes/quantise'
import type { RowWriter, ByteWriter } from '#core/texture/bytes/byte-writer'
import { startTiff } from '#core/texture/formats/tiff'
import { FolderAssets } from '#runtime/node/assets'
import { createFile, folderOf } from '#runtime/node/files'
import { stagedFolder } from '#runtime/node/staged-folder'
import { basename } from 'node:path'
import type { Options } from '../options'
import { openDocument } from '../documents'
import { isInterrupted } from '../interrupts'
import { budgetOf, progressBar, withMaterial } from '../workplace'

/** One result as a picture (png, 16 bits, colours encoded) or as its float32 values (exr, tiff, npy). */
export async function evaluate(options: Options): Promise<number> {
  const { document, folder } = await openDocument(options.words[0])
  const name = options.need('output')
  const output = parseOutput(name)
  const out = options.need('out')
  const [width, height] = sizeOf(options.text('size') ?? '1024')
  const size = tileSize(width, metresOf(document))
  if (height !== undefined && height !== size.height)
    throw new GristError(
      'size-invalid',
      `Expected ${size.width}x${size.height} for a tile of ${metresOf(document).join(' × ')} m but received ${width}x${height}.`,
    )
  const staged = stagedFolder(join(folderOf(out), `.${basename(out)}`))
  try {
    const file = createFile(join(staged.path, basename(out)))
    await withMaterial(
      options,
      document,
      new FolderAssets(folder),
      async (material) => {
        const writer = writerFor(extname(out), size, material.typeOf(output), file.output)
        await material.evaluateBands(
          {
            outputs: [output],
            width,
            budgetBytes: budgetOf(options),
            isCancelled: isInterrupted,
            onProgress: progressBar(options, name),
          },
          (fields, band) => writer.rows(interleave(fields.get(formatOutput(output))!, band.top, band.rows)),
        )
        writer.end()
      },
      {
        delivery: deliverableChannels(document).filter(({ id }) => output.kind === 'channel' && output.channel === id),
      },
    )
    await file.close()
    const { renameSync } = await import('node:fs')
    renameSync(join(staged.path, basename(out)), out)
  } finally {
    staged.discard()
  }
  return 0
}

function sizeOf(text: string): [number, number | undefined] {
  const match = /^(\d{1,5})(?:x(\d{1,5}))?$/.exec(text)
  if (!match) throw new GristError('usage', `Expected --size as N or NxM but received ${JSON.stringify(text)}.`)
  return [Number(match[1]), match[2] === undefined ? undefined : Number(match[2])]
}

function interleave(field: Field, top: number, rows: number): Float32Array {
  const planes = field.ids ? [field.ids] : field.planes
  const out = new Float32Array(rows * field.width * planes.length)
  planes.forEach((plane, p) => {
    for (let y = 0; y < rows; y++) {
      const start = rowStart(field, top + y)
      for (let x = 0; x < field.width; x++) out[(y * field.width + x) * planes.length + p] = plane[start + x]!
    }
  })
  return out
}

function writerFor(
  extension: string,
  size: { width: number; height: number },
  type: Field['type'],
  writer: ByteWriter,
): RowWriter<Float32Array> {
  const channels = type === 'vector' ? 2 : type === 'grey' || type === 'id' ? 1 : 3
  const names = type === 'vector' ? ['X', 'Y'] : channels === 1 ? ['Y'] : ['R', 'G', 'B']
  if (extension === '.npy') return startNpy({ ...size, channels }, writer)
  if (extension === '.tiff' || extension === '.tif')
    return startTiff({ ...size, channels, bits: 32, float: true }, writer)
  if (extension === '.exr') return startExr({ ...size, channels: names, pixel: 'float' }, writer)
  if (extension !== '.png')
    throw new GristError('usage', `Expected --out with .png, .exr, .tiff or .npy but received "${extension}".`)
  if (type === 'vector' || type === 'id')
    throw new GristError('usage', `A ${type} has no picture; take .npy, .exr or .tiff.`)
  const png = startPng({ ...size, channels: channels as 1 | 3, bits: 16, srgb: type === 'colour' }, writer)
  const map = type === 'colour' ? encodeSrgb : type === 'normal' ? (v: number) => v * 0.5 + 0.5 : (v: number) => v
  let top = 0
  return {
    rows: (values) => {
      const form = { bits: 16, channels, width: size.width, top, dither: false } as const
      png.rows(quantise(values.map(map), form))
      top += values.length / (size.width * channels)
    },
    end: () => png.end(),
  }
}
