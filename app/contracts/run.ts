import { ownSettings } from '#core/document/own-settings'
import { sharpening } from '#core/document/sharpening'
import { z } from 'zod'
import { LIMITS } from '#core/limits'
import { parsePacking } from '#core/texture/packing'
import { recordNames } from '#core/texture/record'

/** Bakes wait on one queue, pictures for cards on another, so that a long bake holds no picture up. */
export const RUN_KINDS = ['bake', 'picture'] as const
export type RunKind = (typeof RUN_KINDS)[number]

export type RunState = 'queued' | 'running' | 'done' | 'failed' | 'cancelled'

/** A job of the queue and how it stands. Moments are ISO 8601. */
export interface Run {
  readonly id: string
  readonly kind: RunKind
  readonly projectId: string
  readonly project: string
  readonly documentId: string
  readonly document: string
  readonly revision: number
  readonly request: BakeRequest
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
  /** Made again to be compared with this delivery; nothing new is kept. */
  compareWith: z.uuid().optional(),
})

export type BakeRequest = z.output<typeof bakeRequest>
