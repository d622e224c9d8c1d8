import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { parseDocument } from '#core/graph/document'
import { packings } from '#core/maps/packings/packings.generated'
import { closeDatabase, database } from '../app/server/database.server'
import { loadDemo } from '../app/server/projects.server'
import { closeQueue, queue } from '../app/server/queue.server'
import { enqueue } from '../app/server/runs.server'
import { migrationSource } from './migrations'

/**
 * Brings the database and the queue up to date. With the demo: loads Lantern Sluice once, and puts the pictures and
 * deliveries of its materials on the queue.
 */
async function prepare(withDemo: boolean, width: number): Promise<void> {
  await database().migrate.latest({ migrationSource })
  await queue()
  if (!withDemo) return
  const folder = join(import.meta.dirname, '../demo')
  const files = readdirSync(folder)
    .filter((name) => name.endsWith('.json'))
    .sort()
    .reverse()
  const documents = files.map((file) => parseDocument(JSON.parse(readFileSync(join(folder, file), 'utf8')), file))
  const ids = await loadDemo('demo:lantern-sluice', 'Lantern Sluice', documents)
  if (!ids) return
  for (const id of ids) await enqueue('picture', id, 0, {})
  const packing = packings.find(({ name }) => name === 'occlusion-rough-metal-y-up')!
  for (const id of ids) await enqueue('bake', id, 0, { packing, width, dither: true })
}

try {
  const { values } = parseArgs({
    options: { 'no-demo': { type: 'boolean' }, 'demo-size': { type: 'string', default: '1024' } },
  })
  await prepare(!values['no-demo'], Number(values['demo-size']))
} finally {
  await closeQueue()
  await closeDatabase()
}
