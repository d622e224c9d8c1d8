import { GristError } from '../errors'
import type { Depth, FileFormat, FormatWriter } from './file-format'
import { formats } from './formats/formats.generated'

/** A format that files are written in. */
export type WrittenFormat = FileFormat & { readonly write: FormatWriter }

/** Formats that files are written in. */
export const writtenFormats: readonly WrittenFormat[] = formats.filter(
  (format): format is WrittenFormat => format.write !== undefined,
)

const byName = new Map(formats.map((format) => [format.name, format]))

/** A format by its name; undefined where there is none. */
export const formatNamed = (name: string): FileFormat | undefined => byName.get(name)

/** A format that files are written in. Throws packing-invalid where there is none of the name. */
export function writtenFormat(name: string): WrittenFormat {
  const found = writtenFormats.find((format) => format.name === name)
  if (found) return found
  throw new GristError(
    'packing-invalid',
    `There is no format "${name}" to write. There are: ${writtenFormats.map((format) => format.name).join(', ')}.`,
  )
}

/** How a format holds numbers of so many bits; undefined where it has no such form. */
export const depthOf = (format: FileFormat, bits: number): Depth | undefined =>
  format.write?.depths.find((depth) => depth.bits === bits)

/** Whether files of a record's format and bits hold floats. */
export function holdsFloats({ format, bits }: { format: string; bits: number }): boolean {
  const found = formatNamed(format)
  return found !== undefined && depthOf(found, bits)?.float === true
}

/** The format of a file by its first bytes; undefined where it is none we know. Those without a mark come last. */
export const formatOfBytes = (head: Uint8Array): FileFormat | undefined =>
  formats.find((format) => format.reader !== 'tga' && format.isOf(head)) ?? formats.find((format) => format.isOf(head))
