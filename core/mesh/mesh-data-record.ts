import { z } from 'zod'
import { GristError } from '../errors'
import type { BakeOptions, Baker } from './baker'
import type { BakeSettings } from './bake-settings'
import { STANDARD_SETTINGS, bakeSettings } from './bake-settings'
import type { MeshDataPlace, ModelContents } from './mesh-data'

/**
 * What mesh data were made from, and the hash of what came out: the same model, settings and options give the same bytes again, whatever
 * the number of threads. Lengths in metres.
 */
export interface MeshDataRecord {
  readonly format: 'amber-grist/mesh-data'
  readonly version: 1
  readonly application: string
  readonly model: string
  readonly part: string
  readonly place: MeshDataPlace
  readonly contents: ModelContents
  readonly settings: Pick<BakeSettings, 'size' | 'samples' | 'padding' | 'uvSet' | 'outside'>
  /** Options that the kind uses. */
  readonly options: Partial<BakeOptions>
  readonly missedTexels: number
  /** SHA-256 of the texels as meshDataBytes gives them. */
  readonly sha256: string
}

export function meshDataRecord({
  settings: { size, samples, padding, uvSet, outside },
  options,
  missed,
  kind,
  ...rest
}: Pick<MeshDataRecord, 'application' | 'model' | 'part' | 'place' | 'contents' | 'sha256'> & {
  readonly settings: BakeSettings
  readonly options: BakeOptions
  readonly missed: number
  readonly kind: Baker
}): MeshDataRecord {
  return {
    format: 'amber-grist/mesh-data',
    version: 1,
    ...rest,
    settings: { size, samples, padding, uvSet, outside },
    options: Object.fromEntries(kind.uses.map((name) => [name, options[name]])),
    missedTexels: missed,
  }
}

/** How mesh data were baked, as a delivery's record tells it of each kind. */
export const bakedAs = ({ settings, options }: Pick<MeshDataRecord, 'settings' | 'options'>): Baked => ({
  ...settings,
  ...options,
})

/** Settings and options of a kind by name. */
type Baked = Record<string, number | string | null>

/** Settings that bake kinds again as they were, with the kinds that each is for: as few as can be. Throws record-invalid. */
export function settingsOfBaked(
  baked: Readonly<Record<string, Baked>>,
): { readonly settings: BakeSettings; readonly kinds: readonly string[] }[] {
  const groups: { given: Baked; kinds: string[] }[] = []
  for (const [kind, own] of Object.entries(baked)) {
    const group = groups.find(({ given }) =>
      Object.entries(own).every(([name, value]) => (given[name] ?? value) === value),
    )
    if (group) {
      Object.assign(group.given, own)
      group.kinds.push(kind)
    } else groups.push({ given: { ...own }, kinds: [kind] })
  }
  return groups.map(({ given, kinds }) => {
    const result = bakeSettings.safeParse({ ...STANDARD_SETTINGS, ...given })
    if (result.success) return { settings: result.data, kinds }
    const [issue] = result.error.issues
    throw new GristError('record-invalid', `How ${kinds[0]} was baked: ${issue!.path.join('.')}: ${issue!.message}.`)
  })
}

/** Mesh data that were written to files, with all that makes them again. Paths are relative to the record's folder. */
const meshDataSetSchema = z.strictObject({
  format: z.literal('amber-grist/mesh-data-set'),
  version: z.literal(1),
  files: z.strictObject({
    model: z.string(),
    high: z.string().optional(),
    cage: z.string().optional(),
    image: z.string().optional(),
    unit: z.number().positive(),
  }),
  settings: bakeSettings,
  entries: z.array(
    z.strictObject({ file: z.string(), record: z.looseObject({ part: z.string(), sha256: z.string() }) }),
  ),
})

export interface MeshDataEntry {
  readonly file: string
  readonly record: MeshDataRecord
}

/** A set as it was parsed: its entries' records are what they were, unchecked but for what is compared. */
export type MeshDataSet = Omit<z.output<typeof meshDataSetSchema>, 'entries'> & {
  readonly entries: readonly MeshDataEntry[]
}

export const meshDataSet = (
  files: MeshDataSet['files'],
  settings: BakeSettings,
  entries: readonly MeshDataEntry[],
): MeshDataSet => ({ format: 'amber-grist/mesh-data-set', version: 1, files, settings, entries })

/** Whether JSON says that it is a set of mesh data. */
export const isMeshDataSet = (json: unknown): boolean =>
  typeof json === 'object' && json !== null && (json as { format?: unknown }).format === 'amber-grist/mesh-data-set'

/** Reads a set's record. Throws record-invalid. */
export function parseMeshDataSet(json: unknown): MeshDataSet {
  const result = meshDataSetSchema.safeParse(json)
  if (result.success) return result.data as unknown as MeshDataSet
  const [issue] = result.error.issues
  throw new GristError('record-invalid', `This is no record of mesh data: ${issue!.path.join('.')}: ${issue!.message}.`)
}
