import type { RoleBy } from '#core/texture/find-role'
import type { RegionSpread } from '#core/texture/region-spread'
import type { SetSlot } from '#core/document/document-of-set'
import { z } from 'zod'
import type { Asset } from './asset'
import { CHANNELS } from '#core/document/channels'
import { LIMITS } from '#core/limits'

/** Channels that a file of a set may hold: those of every material, specular colours, and normals in the space of a model. */
export const SET_CHANNELS = [...CHANNELS.map(({ id }) => id), 'specular', 'object-normal'] as const

const setSlot = z.strictObject({
  channel: z.enum(SET_CHANNELS).nullable(),
  component: z.int().min(0).max(2),
  inverted: z.boolean(),
})

/** What somebody says a file holds; no slots where it is not used. */
export const fileRole = z.strictObject({
  transfer: z.enum(['srgb', 'raw']),
  slots: z.array(setSlot).max(4),
  /** Of a file of floats: whether heights in it are metres from the surface, and not from 0 to 1. */
  inMetres: z.boolean().optional(),
})
export type FileRole = z.output<typeof fileRole>

/** Which page says something, and how much it has said before: two requests may overtake each other on their way. */
export const said = z.strictObject({ page: z.uuid(), turn: z.int().min(0) })
export type Said = z.output<typeof said>

/** Images that are one set, by content, with the names they came with. */
export const newMapSet = z.strictObject({
  name: z.string().trim().min(1, 'a name').max(LIMITS.name),
  files: z
    .array(z.strictObject({ sha256: z.string().regex(/^[0-9a-f]{64}$/), name: z.string().min(1).max(200) }))
    .min(1, 'a file')
    .max(64),
})

/** A file of a set and what it is taken to hold. */
export interface MapSetFile extends Omit<Asset, 'here'> {
  readonly transfer: 'srgb' | 'raw'
  readonly slots: readonly SetSlot[]
  /** How that is known; null where nothing tells. */
  readonly by: RoleBy | 'hand' | null
  /** Which way green of a normal points, where its texels tell. */
  readonly green: 'up' | 'down' | null
  readonly inMetres?: boolean
}

/** How even a set is within regions: what is measured, and a row a region. */
export interface SetRegions {
  readonly channels: readonly string[]
  readonly regions: readonly RegionSpread[]
}

/** An existing set of maps, to be converted. */
export interface MapSet {
  readonly id: string
  readonly name: string
  readonly widthMetres: number
  /** Metres that heights from 0 to 1 span. */
  readonly heightMetres: number
  readonly files: readonly MapSetFile[]
  /** The material that was last made of it. */
  readonly documentId: string | null
  /** When it was last said what its files hold. */
  readonly changedAt: string
}
