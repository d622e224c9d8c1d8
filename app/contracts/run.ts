import { ownSettings } from '#core/document/own-settings'
import { sharpening } from '#core/document/sharpening'
import { z } from 'zod'
import { LIMITS } from '#core/limits'
import { bakeSettings } from '#core/mesh/bake-settings'
import { layoutChange } from '#core/mesh/layout-change'
import { parsePacking } from '#core/texture/packing'
import { recordNames } from '#core/texture/record'
import { partPlace } from './parts'

/** Bakes wait on one queue, pictures for cards on another, work on models on a third, so that a long one holds no other kind up. */
export const RUN_KINDS = ['bake', 'picture', 'mesh'] as const
export type RunKind = (typeof RUN_KINDS)[number]

export type RunState = 'queued' | 'running' | 'done' | 'failed' | 'cancelled'

/** A job of the queue and how it stands. Moments are ISO 8601. */
interface AnyRun {
  readonly id: string
  readonly projectId: string
  readonly project: string
  /** The name of the material or model that it is about. */
  readonly subject: string
  readonly state: RunState
  readonly progress: number
  readonly attempt: number
  readonly worker: string | null
  readonly error: string | null
  readonly result: string | null
  readonly log: { at: string; text: string }[]
  readonly createdAt: string
  readonly startedAt: string | null
  readonly endedAt: string | null
  readonly changedAt: string
}

/** Maps, or a picture, of a material. */
export interface BakeRun extends AnyRun {
  readonly kind: 'bake' | 'picture'
  readonly documentId: string
  readonly revision: number
  readonly request: BakeRequest
}

/** Work on a model. */
export interface MeshRun extends AnyRun {
  readonly kind: 'mesh'
  readonly modelId: string
  readonly request: MeshRequest
  readonly detail: MeshDetail | null
}

export type Run = BakeRun | MeshRun

/** What a delivery is to be made of. */
export const bakeRequest = z.strictObject({
  packing: z.unknown().transform((json) => parsePacking(json)),
  width: z.int().min(1).max(LIMITS.side),
  dither: z.boolean(),
  sharpen: sharpening.default(0),
  /** What is another way than in the material. */
  own: ownSettings.default({ layers: {} }),
  /** What file names may hold; the delivery’s number is given when it is asked for. */
  names: recordNames.default({}),
  /** The part that a material for parts is delivered on; the first of its parts where none is told. */
  on: partPlace.optional(),
  /** Whether the files are checked when they are there; what is found is kept with the delivery. */
  checks: z.boolean().optional(),
  /** Files that these replace, as they came: they go along in a folder beside them. */
  replaced: z
    .array(z.strictObject({ name: z.string().max(200), sha256: z.string().regex(/^[0-9a-f]{64}$/) }))
    .max(64)
    .optional(),
  /** What was asked for together: maps of several sizes. */
  together: z.uuid().optional(),
  /** Made again to be compared with this delivery; nothing new is kept. */
  compareWith: z.uuid().optional(),
})

export type BakeRequest = z.output<typeof bakeRequest>

/** A cell of the sheet of mesh data: a kind of a part, by its number. */
export const meshCell = z.strictObject({ part: z.int().min(0).max(LIMITS.model.parts), kind: z.string().max(64) })
export type MeshCell = z.output<typeof meshCell>

/** What is to be done with a model: its mesh data made, all those cells as the settings said then; UVs laid out another way; or the maps of all its parts made, with the model
 * that wears them. */
export const meshRequest = z.discriminatedUnion('do', [
  z.strictObject({ do: z.literal('bake'), cells: z.array(meshCell).min(1).max(65536), settings: bakeSettings }),
  z.strictObject({ do: z.literal('lay out'), change: layoutChange }),
  z.strictObject({
    do: z.literal('deliver'),
    packing: z.unknown().transform((json) => parsePacking(json)),
    width: z.int().min(1).max(LIMITS.side),
    dither: z.boolean(),
    /** The channel that becomes vertex colours of the model. */
    vertices: z.string().max(64).optional(),
  }),
])

export type MeshRequest = z.output<typeof meshRequest>

/** What is at work in a run on a model: kinds of a part, 0–1 done, and how long yet; cells that are done. */
export interface MeshDetail {
  readonly part: number
  readonly kinds: readonly string[]
  readonly ratio: number
  readonly secondsLeft: number | null
  readonly cellsDone: number
}
