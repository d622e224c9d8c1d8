/**
 * Measures materials on parts and writes bench/PARTS.md: pictures of islands, a material evaluated on a demo part, and what a turned dial
 * takes. By the clock on two threads where it says so; medians of three. Figures are for this machine.
 */
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { cpus, tmpdir } from 'node:os'
import { join } from 'node:path'
import { channelOutput } from '#core/document/address'
import { parseDocument } from '#core/document/document'
import { onPart } from '#core/document/domain'
import { applyDials } from '#core/document/apply-dials'
import { Dropped } from '#core/engine/dropped'
import { FieldCache } from '#core/engine/field-cache'
import { islandsHere } from '#core/engine/island-threads'
import { Pyramids } from '#core/engine/pyramids'
import type { RasterImage } from '#core/field/pyramid'
import { patchAt, patchCount } from '#core/field/patches'
import { kindsRead } from '#core/graph/kinds-read'
import type { MeshDataKind } from '#core/graph/mesh-data-kinds'
import { openMaterial } from '#core/material/session'
import { QUALITIES, STANDARD_SETTINGS } from '#core/mesh/bake-settings'
import { imageOfMeshData, meshDataBytes, meshDataShape } from '#core/mesh/mesh-data-raster'
import { partFactsOf } from '#core/mesh/part-facts'
import { meshSummary } from '#core/mesh/mesh-summary'
import { writeGlb } from '#core/mesh/write-glb'
import { KeptPatches, patchArrays } from '#core/mesh/seams/island-patches'
import { patchesOf } from '#core/mesh/seams/patches'
import { topologyOf } from '#core/mesh/seams/topology'
import type { Mesh } from '#core/mesh/mesh'
import { unwrappedHead } from '#core/mesh/testing/head'
import { registry } from '#core/nodes/registry.generated'
import type { DemoModel } from '#demo/make/meshes/index'
import { demoModels } from '#demo/make/meshes/index'
import { PLACED } from '#demo/placed'
import { bakeModel } from '#runtime/node/bake-model'
import { readImage } from '#runtime/node/read-image'
import { openThreads } from '#runtime/node/threads'
import { uvAtlases } from '#runtime/node/uv-atlas'
import { watched } from './bakes'
import { lines, say, table } from './report'

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!
async function clock(work: () => unknown, times = 3): Promise<number> {
  const taken: number[] = []
  for (let i = 0; i < times; i++) {
    const began = performance.now()
    await work()
    taken.push((performance.now() - began) / 1000)
  }
  return median(taken)
}

const models = await demoModels(await uvAtlases())
const [wheel] = models
const mesh = wheel!.low
const threads = openThreads(2)

say('# Materials on parts')
say()
say(
  `Made by \`npm run bench:parts\` on ${cpus().length} × ${cpus()[0]!.model.trim()}, Node ${process.version}. Seconds by the clock, medians of three; pictures by two threads of nine.`,
)
say()
await measurePictures('the wheel', mesh, [512, 1024, 2048], [8, 32, 128])
await measurePictures('a head, the one that the design names', await unwrappedHead(1024), [1024, 2048], [8, 32, 128])

/** Pictures of islands of a mesh's first part. */
async function measurePictures(
  name: string,
  of: Mesh,
  sizes: readonly number[],
  reaches: readonly number[],
): Promise<void> {
  const part = of.parts[0]!
  const topology = topologyOf(of, part, 0)
  say(`## Pictures of the islands of ${name} (${part.count} triangles, ${topology.islands.length} islands)`)
  say()
  const rows: string[][] = []
  for (const size of sizes)
    for (const reach of reaches) {
      let bytes = 0
      let texels = 0
      const here = islandsHere()
      const alone = await clock(async () => {
        patchArrays(await patchesOf(topology, size, size, reach, { threads: here })).forEach(here.free)
      })
      const seconds = await clock(async () => {
        const set = await patchesOf(topology, size, size, reach, { threads })
        const arrays = patchArrays(set)
        bytes = arrays.reduce((sum, { byteLength }) => sum + byteLength, 0)
        texels = 0
        for (let i = 0; i < patchCount(set); i++) texels += patchAt(set, i).width * patchAt(set, i).height
        arrays.forEach(threads.free)
      }, 9)
      rows.push([
        String(size),
        String(reach),
        alone.toFixed(2),
        seconds.toFixed(2),
        (bytes / 1e6).toFixed(1),
        (texels / (size * size)).toFixed(2),
      ])
    }
  table(['size', 'reach, texels', 'one thread', 'two', 'MB', 'texels of pictures a texel of the raster'], rows)
  say()
}

// The demo's material on the wheel.
const document = parseDocument(JSON.parse(readFileSync('demo/limewashed-iron.json', 'utf8')))
const SIZE = 512
const images = new Map<string, RasterImage>()
const data: Record<string, string> = {}
await bakeModel(threads, {
  ...{ name: 'wheel', application: 'bench', mesh, high: wheel!.high!, cage: null, image: null },
  contents: { mesh: 'low', high: 'high', cage: null },
  cells: kindsRead(document, registry, { under: true }).map((kind) => ({ part: 0, kind })),
  settings: { ...STANDARD_SETTINGS, size: SIZE, samples: 1, rays: 16 },
  tilesOf: () => [1001],
  isKnown: () => false,
  onBaked: async ({ place, baker, field }) => {
    data[place.kind] = place.kind
    const bytes = meshDataBytes(baker, field)
    images.set(place.kind, imageOfMeshData(place.kind as MeshDataKind, meshDataShape(baker, SIZE, SIZE), bytes))
  },
  onProgress: () => {},
  isCancelled: () => false,
})
const facts = partFactsOf({ summary: meshSummary(mesh), name: 'Wheel', mesh: 'low', part: 0, uvSet: 0, data })
const outputs = ['colour', 'normal', 'roughness', 'metallic', 'occlusion', 'height'].map(channelOutput)
const placed = onPart(document, facts)
const host = (cache?: FieldCache) => ({
  executor: threads,
  cache,
  pyramids: new Pyramids({ load: async (name) => images.get(name) ?? readImage(`demo/${name}`) }, threads.allocate),
  islands: new KeptPatches({ load: async () => mesh }, threads),
})
say()
say('## Limewashed iron on the wheel, two threads')
say()
say('Dials: to values never seen before, within a drag; medians of nine.')
say()
const made: string[][] = []
for (const width of [512]) {
  const fresh = openMaterial(placed, registry, host())
  const began = performance.now()
  await fresh.evaluate({ outputs, width })
  const first = (performance.now() - began) / 1000
  const again = await clock(() => fresh.evaluate({ outputs, width }))
  const dropped = new Dropped(threads.free)
  const live = openMaterial(placed, registry, host(new FieldCache(384 << 20, dropped.addField)))
  await live.evaluate({ outputs, width })
  let turned = 0
  const dial = async (id: string): Promise<string> => {
    const at = document.dials.find((one) => one.id === id)!
    const turn = async (): Promise<void> => {
      turned++
      const value = Number(at.value) * (1 - turned * 0.004)
      live.update(
        applyDials({ ...placed, dials: placed.dials.map((one) => (one.id === id ? { ...one, value } : one)) }),
      )
      await live.evaluate({ outputs, width })
      dropped.release([])
    }
    // As within a drag: the threads have met this work before.
    for (let i = 0; i < 8; i++) await turn()
    return (1000 * (await clock(turn, 9))).toFixed(0)
  }
  made.push([
    String(width),
    first.toFixed(2),
    again.toFixed(2),
    await dial('wear'),
    await dial('reach'),
    await dial('silt'),
  ])
}
table(['size', 'first, s', 'again without cache, s', 'dial Wear, ms', 'dial Reach of wear, ms', 'dial Silt, ms'], made)
say(`Peak memory of the process: ${Math.round(process.resourceUsage().maxRSS / 1024)} MB.`)
await threads.close()

// Maps of all parts, in processes of their own.
const folder = mkdtempSync(join(tmpdir(), 'grist-bench-'))
cpSync('demo', folder, { recursive: true })
mkdirSync(join(folder, 'models'))
for (const { name, low, high } of models) {
  writeFileSync(join(folder, 'models', `${name}.glb`), await writeGlb(low))
  if (high) writeFileSync(join(folder, 'models', `${name} high.glb`), await writeGlb(high))
}
/** Mesh data are drafts: what is measured are materials. */
const wornBy = ({ name, low, high }: DemoModel, as = name) => ({
  ...{ name: as, mesh: `models/${name}.glb`, ...(high ? { high: `models/${name} high.glb` } : {}) },
  settings: QUALITIES.draft,
  parts: Object.entries(PLACED).flatMap(([material, places]) =>
    places
      .filter(({ model }) => model === name)
      .map(({ part }) => ({ part: low.parts[part]!.name, number: part, material: `${material}.json` })),
  ),
})
const delivered = async (worn: readonly object[], size: number): Promise<readonly [string, string]> => {
  const project = { format: 'amber-grist/project', version: 1, name: 'bench', models: worn }
  writeFileSync(join(folder, 'project.json'), JSON.stringify(project))
  const asked = ['--packing', 'occlusion-rough-metal-y-up', '--size', String(size), '--out', join(folder, 'out')]
  const { seconds, resident } = await watched(['bake', join(folder, 'project.json'), ...asked, '--replace', '--quiet'])
  rmSync(join(folder, 'out'), { recursive: true })
  return [seconds.toFixed(0), resident.toFixed(0)]
}
const dressed = models.map((model) => wornBy(model)).filter(({ parts }) => parts.length > 0)
const count = dressed.reduce((sum, { parts }) => sum + parts.length, 0)
say()
say(`## Maps of all ${count} parts of the demo, with their models, by the command line`)
say()
say('Mesh data are made anew in each run, as drafts. Two threads.')
say()
const whole: string[][] = []
for (const size of [512, 1024, 2048]) whole.push([String(size), ...(await delivered(dressed, size))])
table(['size', 'seconds', 'MB at most'], whole)
say('## How that grows with parts: float drums (two parts each) at 512')
say()
const growth: string[][] = []
const drum = models.find(({ name }) => name === 'Float drum')!
for (const drums of [1, 2, 4, 8]) {
  const worn = Array.from({ length: drums }, (_, i) => wornBy(drum, `Drum ${i + 1}`))
  growth.push([String(drums * 2), ...(await delivered(worn, 512))])
}
table(['parts', 'seconds', 'MB at most'], growth)
rmSync(folder, { recursive: true })
writeFileSync('bench/PARTS.md', `${lines.join('\n')}\n`)
