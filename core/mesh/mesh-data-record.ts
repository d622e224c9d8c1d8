import type { Field } from '../field/field'
import { hashBytes } from '../hash'
import type { BakeOptions, Baker } from './baker'
import type { BakeSettings } from './bake-settings'
import type { MeshDataPlace, ModelContents } from './mesh-data'
import { meshDataBytes } from './mesh-data-raster'

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
  field,
  ...rest
}: Pick<MeshDataRecord, 'application' | 'model' | 'part' | 'place' | 'contents'> & {
  readonly settings: BakeSettings
  readonly options: BakeOptions
  readonly missed: number
  readonly kind: Baker
  readonly field: Field
}): MeshDataRecord {
  return {
    format: 'amber-grist/mesh-data',
    version: 1,
    ...rest,
    settings: { size, samples, padding, uvSet, outside },
    options: Object.fromEntries(kind.uses.map((name) => [name, options[name]])),
    missedTexels: missed,
    sha256: hashBytes(meshDataBytes(kind, field)),
  }
}
