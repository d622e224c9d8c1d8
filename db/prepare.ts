import { createReadStream, readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import type { BakeSettings } from '#core/mesh/bake-settings'
import { STANDARD_SETTINGS } from '#core/mesh/bake-settings'
import { packings } from '#core/texture/packings/packings.generated'
import { importImage } from '#app/server/assets/assets.server'
import { closeDatabase, database } from '#app/server/database/database.server'
import { loadDemo } from '#app/server/projects/demo.server'
import { addMadeModel } from '#app/server/models/models.server'
import { placeMaterial } from '#app/server/placements/placements.server'
import { demoModels } from '#demo/make/meshes/index'
import { PLACED } from '#demo/placed'
import { uvAtlases } from '#runtime/node/uv-atlas'
import { closeQueue, queue } from '#app/server/runs/queue.server'
import { enqueueBake, enqueue, enqueueMesh } from '#app/server/runs/runs.server'
import { migrationSource } from './migrations'

/** What Lantern Sluice is made of, in the order it is shown. */
const MATERIALS = [
  'limewashed-iron',
  'limewashed-iron-drum',
  'enamel',
  'waxed-canvas',
  'quay-setts',
  'towpath-shell-grit',
  'depth-board-enamel',
  'limewash',
  'sedge',
]

/**
 * Brings the database and the queue up to date. With the demo: loads Lantern Sluice once, and puts the pictures and
 * deliveries of its materials on the queue.
 */
async function prepare(withDemo: boolean, width: number): Promise<void> {
  await database().migrate.latest({ migrationSource })
  await queue()
  if (!withDemo) return
  const documents = await demoMaterials()
  const loaded = await loadDemo('demo:lantern-sluice', 'Lantern Sluice', documents)
  if (!loaded) return
  const { project, documents: ids } = loaded
  const models = await addModels(project, width)
  for (const [i, name] of MATERIALS.entries()) {
    for (const { model, part } of PLACED[name] ?? [])
      await placeMaterial(project, { model: models.get(model)!, part }, ids[i]!)
  }
  for (const id of ids) await enqueue('picture', id, 0, {})
  const packing = packings.find(({ name }) => name === 'occlusion-rough-metal-y-up')!
  const tiles = ids.filter((_, i) => !(MATERIALS[i]! in PLACED))
  for (const id of tiles) await enqueueBake(id, { packing, width, dither: true, sharpen: 0 }, { lowPriority: true })
}

/** Models of the demo, whose mesh data are made when nobody waits for anything else. */
async function addModels(project: string, width: number): Promise<Map<string, string>> {
  const made = new Map<string, string>()
  const settings: BakeSettings = {
    ...STANDARD_SETTINGS,
    ...(width < 512 ? { size: 128, samples: 1, rays: 4 } : { size: 1024, samples: 4, rays: 32 }),
  }
  // Small ones are for tests, which look at the wheel.
  const isBaked = (name: string): boolean => width >= 512 || name === 'Hand wheel'
  for (const { name, low, high } of await demoModels(await uvAtlases())) {
    const id = await addMadeModel(project, name, { low, high }, settings)
    made.set(name, id)
    if (!isBaked(name)) continue
    const cells = low.parts.flatMap((_, part) => BAKED_KINDS.map((kind) => ({ part, kind })))
    await enqueueMesh(id, { do: 'bake', cells, settings }, { lowPriority: true })
  }
  return made
}

/** Kinds that the demo's materials read, and a few more to look at. */
const BAKED_KINDS = [
  'normal',
  'object-normal',
  'occlusion',
  'curvature',
  'rounded-edge',
  'position',
  'thickness',
  'leaks',
  'material-id',
]

/** The demo's materials, their images imported into the library and named by content. */
async function demoMaterials(): Promise<MaterialDocument[]> {
  const folder = join(import.meta.dirname, '../demo')
  const byPath = new Map<string, string>()
  for (const file of readdirSync(join(folder, 'images'))) {
    const { sha256 } = await importImage(createReadStream(join(folder, 'images', file)), file)
    byPath.set(`images/${file}`, `sha256:${sha256}`)
  }
  const named = (_: string, value: unknown): unknown => (typeof value === 'string' && byPath.get(value)) || value
  return MATERIALS.map((name) => {
    const file = `${name}.json`
    return parseDocument(JSON.parse(readFileSync(join(folder, file), 'utf8'), named), file)
  })
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
