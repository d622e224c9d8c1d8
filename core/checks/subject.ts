import { channelOutput, formatOutput } from '../document/address'
import type { Channel } from '../document/channels'
import { channelsOf } from '../document/channels'
import type { MaterialDocument } from '../document/document'
import { partOf } from '../document/domain'
import type { Field } from '../field/field'
import type { RasterImage } from '../field/pyramid'
import type { BareIds } from '../mesh/bare-ids'
import type { PartLayout } from '../mesh/part-layout'
import type { RecordFile } from '../texture/record'
import { unpack } from '../texture/unpack'

/** A file as it was found on disk: what its record says and what it says of itself. */
export interface CheckedFile {
  readonly record: RecordFile
  /** True where the file marks itself as sRGB-encoded; null where its format has no such mark. */
  readonly marked: boolean | null
}

/** What is checked: channels as fields (decoded, as inside), and the files they came from, if any. */
export interface CheckSubject {
  readonly width: number
  readonly height: number
  readonly channels: readonly { channel: Channel; field: Field; steps: number }[]
  readonly files: readonly CheckedFile[]
  /** Channels before they were rounded and held to what files can hold, where they are known. */
  readonly before?: ReadonlyMap<string, Field>
  /** How strongly emission glows; absent where it is not known. */
  readonly emissionStrength?: number
  /** Whether it repeats, or lies on a part; absent where it is not known. */
  readonly over?: 'tile' | 'part'
  /** How the part is laid out that it lies on, where that is known. */
  readonly part?: CheckedPart
  /** What lies together in its files, where that is known. */
  readonly set?: CheckedSet
}

/** A file set of a model. */
export interface CheckedSet {
  /** Its parts by their names. */
  readonly parts: readonly string[]
  /** How many materials lie on some IDs of a part. */
  readonly byIds: number
  /** Parts that lie over one another in it, the upper one second, and how many pairs of their triangles do. */
  readonly collisions: readonly { readonly parts: readonly [string, string]; readonly pairs: number }[]
  /** IDs that no material is on. */
  readonly bare: readonly (BareIds & { readonly part: string })[]
}

/** A file set of which no file is there yet. */
export const subjectOfSet = (set: CheckedSet): CheckSubject => ({ width: 0, height: 0, channels: [], files: [], set })

export interface CheckedPart {
  readonly layout: PartLayout
  /** Share of the tile's texels at which rays met no high mesh; absent where it was not asked. */
  readonly missed?: number
}

/** A material's channels as they were evaluated, before any file. */
export function subjectOfFields(
  document: MaterialDocument,
  fields: ReadonlyMap<string, Field>,
  layout?: PartLayout,
): CheckSubject {
  const channels = channelsOf(document).map((channel) => ({
    channel,
    field: fields.get(formatOutput(channelOutput(channel.id)))!,
    steps: 0,
  }))
  const { width, height } = channels[0]!.field
  const { emissionStrength, domain } = document
  const part = checkedPart(document, layout)
  return { width, height, channels, files: [], emissionStrength, over: domain.kind, ...(part ? { part } : {}) }
}

/** The part that a material lies on, as checks see it. */
export function checkedPart(
  document: Pick<MaterialDocument, 'domain'>,
  layout: PartLayout | undefined,
): CheckedPart | undefined {
  const missed = partOf(document)?.missed
  return layout && { layout, ...(missed === undefined ? {} : { missed }) }
}

/** A file that was read, or made as it would be read. */
export interface ReadFile extends CheckedFile {
  readonly image: RasterImage
}

/** What files of one size hold. `more.before` are the channels they were packed from, where they are known. */
export function subjectOfFiles(
  files: readonly ReadFile[],
  channels: ReadonlyMap<string, Channel>,
  heightMetres: number,
  more: Partial<Pick<CheckSubject, 'width' | 'height' | 'before' | 'emissionStrength' | 'over' | 'part'>> = {},
): CheckSubject {
  const unpacked = unpack(files, channels, heightMetres)
  const { width, height } = files[0]?.image ?? { width: 1, height: 1 }
  // A channel that no file took is there all the same where a check tells when it is missed.
  const missed = [...channels.values()].flatMap((channel) => {
    const field = channel.checks?.includes('alpha-dropped') ? more.before?.get(channel.id) : undefined
    return field && !unpacked.some((one) => one.channel.id === channel.id) ? [{ channel, field, steps: 0 }] : []
  })
  return { width, height, ...more, channels: [...unpacked, ...missed], files }
}
