import { GristError } from '#core/errors'
import type { Field } from '#core/field/field'
import type { ShownScale } from '#core/mesh/baker'
import { openPool } from './pool'

/** Mesh data of a kind, and the texels at which rays missed, if any. */
export interface MeshDataTask {
  readonly kind: string
  readonly field: Field
  readonly scale: ShownScale
  readonly missedAt?: Uint8Array
}

/** Mesh data as they are kept. */
export interface DevelopedMeshData {
  /** The bytes of meshDataBytes, by gzip, and the hash of what was packed. */
  readonly packed: Uint8Array
  readonly sha256: string
  /** PNG: for the layout view and the model, for a cell, and where rays missed. */
  readonly picture: Uint8Array
  readonly swatch: Uint8Array
  readonly missedPicture: Uint8Array | null
}

let pool: ReturnType<typeof openPool> | undefined

/** Makes of mesh data what is kept, on a thread that is ended when `signal` says so: cancelled is thrown then. */
export async function developed(task: MeshDataTask, signal?: AbortSignal): Promise<DevelopedMeshData> {
  // Kept for a while: starting one takes longer than what it does for a draft.
  pool ??= openPool('mesh-data-worker', 2, { idleTimeout: 60_000 })
  try {
    return (await pool.run(task, signal ? { signal } : {})) as DevelopedMeshData
  } catch (error) {
    if (signal?.aborted) throw new GristError('cancelled', 'The work was cancelled.')
    throw error
  }
}
