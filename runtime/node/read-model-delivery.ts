import { join } from 'node:path'
import { z } from 'zod'
import type { CheckSubject } from '#core/checks/subject'
import { FIRST_TILE } from '#core/document/domain'
import { GristError } from '#core/errors'
import type { Mesh } from '#core/mesh/mesh'
import type { PartLayout } from '#core/mesh/part-layout'
import { partLayoutOf } from '#core/mesh/part-layout'
import type { ModelRecord } from './deliver-parts'
import { checkedSet } from './deliver-parts'
import { RECORD_NAME } from './delivery-folder'
import { readJson } from './files'
import { readDelivery } from './read-delivery'
import { readModelFile } from './read-model'

/** A file set of a model that was delivered. */
export interface DeliveredSet {
  readonly folder: string
  readonly subject: CheckSubject
}

const modelRecord = z.looseObject({
  format: z.literal('amber-grist/model-record'),
  version: z.literal(2),
  model: z.looseObject({ uvSet: z.int().min(0) }),
  file: z.looseObject({ name: z.string() }),
  sets: z.array(
    z.looseObject({
      folder: z.string(),
      udim: z.int(),
      materials: z.array(z.looseObject({ part: z.int().min(0), name: z.string() })),
      collisions: z.array(z.looseObject({ parts: z.tuple([z.string(), z.string()]), pairs: z.int() })),
    }),
  ),
})

/** Whether JSON says that it is the record of a model. */
export const isModelRecord = (json: unknown): boolean =>
  typeof json === 'object' && json !== null && (json as { format?: unknown }).format === 'amber-grist/model-record'

/** Reads the record of a model. Throws record-invalid. */
export function parseModelRecord(json: unknown): ModelRecord {
  const result = modelRecord.safeParse(json)
  if (result.success) return result.data as unknown as ModelRecord
  const [issue] = result.error.issues
  throw new GristError('record-invalid', `${issue!.path.join('.')}: ${issue!.message}`)
}

/**
 * Reads the file sets of a model that was delivered, each with how its part is laid out in the model beside them, where it has them alone.
 * Throws record-invalid, file-invalid.
 */
export async function readModelDelivery(folder: string): Promise<DeliveredSet[]> {
  const record = parseModelRecord(readJson(join(folder, RECORD_NAME)))
  const { mesh } = await readModelFile(join(folder, record.file.name))
  const subjects: DeliveredSet[] = []
  for (const set of record.sets) {
    const subject = await readDelivery(join(folder, set.folder))
    const layout = layoutOf(mesh, record, set)
    subjects.push({
      folder: set.folder,
      subject: { ...subject, set: checkedSet(set), ...(layout ? { part: { layout } } : {}) },
    })
  }
  return subjects
}

/** The layout of the one part of a set, as the file that wears it has it; null where others share it, or it lies in several tiles. */
function layoutOf(mesh: Mesh, { model, sets }: ModelRecord, set: ModelRecord['sets'][number]): PartLayout | null {
  const numbers = new Set(set.materials.map(({ part }) => part))
  const tiles = sets.filter(({ materials }) => materials.some(({ part }) => numbers.has(part)))
  const parts = mesh.parts.filter((part) => part.name === set.materials[0]?.name)
  if (numbers.size !== 1 || tiles.length !== 1 || parts.length !== 1 || set.udim !== FIRST_TILE) return null
  const number = mesh.parts.indexOf(parts[0]!)
  return model.uvSet < parts[0]!.uvSets ? partLayoutOf(mesh, number, model.uvSet) : null
}
