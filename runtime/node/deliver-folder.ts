import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { EngineHost, EvaluationReport } from '#core/engine/evaluate'
import { registry } from '#core/nodes/registry.generated'
import type { DeliverRequest } from '#core/maps/deliver'
import { deliver } from '#core/maps/deliver'
import type { DeliveryRecord } from '#core/maps/record'
import { createFile, stagedFolder } from './files'
import { encodeJpeg } from './jpeg'

export const RECORD_NAME = 'record.json'

/** Writes a delivery and its record into a folder; files appear there only when all are done. */
export async function deliverToFolder(
  host: EngineHost,
  request: Omit<DeliverRequest, 'open' | 'registry' | 'encodeJpeg'>,
  folder: string,
): Promise<{ record: DeliveryRecord; report: EvaluationReport }> {
  const staged = stagedFolder(folder)
  try {
    const done = await deliver(host, {
      ...request,
      registry,
      encodeJpeg,
      open: (name) => createFile(join(staged.path, name)),
    })
    writeFileSync(join(staged.path, RECORD_NAME), `${JSON.stringify(done.record, null, 2)}\n`)
    staged.commit([...done.record.files.map(({ name }) => name), RECORD_NAME])
    return done
  } catch (error) {
    staged.discard()
    throw error
  }
}
