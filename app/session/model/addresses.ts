import type { MeshDataInfo, ModelPage } from '../../contracts/model'

/** What of a model a view needs to find it. */
export type ShownModel = Pick<ModelPage, 'id' | 'mesh' | 'high' | 'cage' | 'data' | 'settings'>

/** Where one of a model's meshes is; null where it has none. The address changes with what it gives. */
export function meshAddress(
  { id, mesh, high, cage }: Pick<ShownModel, 'id' | 'mesh' | 'high' | 'cage'>,
  role: 'low' | 'high' | 'cage',
): string | null {
  const sha256 = { low: mesh, high: high?.sha256, cage: cage?.sha256 }[role]
  return sha256 === undefined ? null : `/models/${id}/mesh?role=${role}&k=${sha256}`
}

export type MeshDataFile = 'swatch' | 'picture' | 'missed' | 'file' | 'record'

export const meshDataAddress = (
  model: string,
  { part, kind, udim, sha256 }: MeshDataInfo,
  what: MeshDataFile,
): string => `/models/${model}/data/${part}/${kind}/${udim}/${what}?k=${sha256.slice(0, 16)}`
