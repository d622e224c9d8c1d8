import { read as parseKtx2 } from 'ktx-parse'
import { GristError } from '#core/errors'
import type { RasterImage } from '#core/field/pyramid'
import { kindOfType } from '#core/texture/bytes/ktx-types'
import { parseDds } from '#core/texture/bytes/dds-container'
import { depthOf, formatOfBytes } from '#core/texture/format-registry'
import type { FileForm, FileToReplace } from '#core/texture/replacing'

/**
 * The form of a file that was read, from its own bytes, so that another can be written alike.
 * Throws file-unsupported where files of its kind are only read here.
 */
export function formOfBytes(bytes: Buffer, { bits: read }: Pick<RasterImage, 'bits'>): FileForm {
  const format = formatOfBytes(bytes.subarray(0, 64))
  if (!format?.write)
    throw new GristError('file-unsupported', `${format?.title ?? 'Such'} files are read, but not written here.`)
  if (format.name === 'dds') {
    const { block, levels } = parseDds(bytes)
    return { format: 'dds', bits: 8, ...(block ? { block } : {}), mips: levels.length > 1 }
  }
  if (format.name === 'ktx2') {
    const { vkFormat, levels } = parseKtx2(bytes)
    const block = kindOfType(vkFormat)?.block
    return { format: 'ktx2', bits: 8, ...(block ? { block } : {}), mips: levels.length > 1 }
  }
  const bits = format.name === 'exr' ? exrBits(bytes) : read
  if (!depthOf(format, bits))
    throw new GristError('file-unsupported', `${format.title} files of ${bits} bits are read, but not written here.`)
  return { format: format.name, bits }
}

/** The same, or why a file of its kind is only read. */
export function formOrProblem(bytes: Buffer, image: Pick<RasterImage, 'bits'>): FileToReplace['form'] {
  try {
    return formOfBytes(bytes, image)
  } catch (error) {
    if (error instanceof GristError) return { problem: error.detail }
    throw error
  }
}

/** Bits of the first channel: readers give floats for half floats too. Source: OpenEXR File Layout, attribute "chlist". */
function exrBits(bytes: Buffer): 16 | 32 {
  const mark = 'channels\0chlist\0'
  const at = bytes.indexOf(mark, 0, 'latin1')
  const nameAt = at + mark.length + 4
  const type = at < 0 ? 1 : bytes.readInt32LE(bytes.indexOf(0, nameAt) + 1)
  return type === 1 ? 16 : 32
}
