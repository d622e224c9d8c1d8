import { createHash } from 'node:crypto'
import type { Field } from '#core/field/field'
import type { Baker } from '#core/mesh/baker'
import { meshDataBytes } from '#core/mesh/mesh-data-raster'

/** What a record of mesh data holds of them: the SHA-256 of their bytes. */
export const meshDataHash = (baker: Baker, field: Field): string => hashOf(meshDataBytes(baker, field))

export const hashOf = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex')
