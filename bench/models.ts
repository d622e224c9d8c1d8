/**
 * Measures models and writes bench/MODELS.md: reading, layout, trees, rays, every kind of mesh data. Figures are for this machine; the
 * ratio of rays against a general-purpose tree comes from the same interleaved run and carries over. CPU time, medians.
 */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { cpus, tmpdir } from 'node:os'
import { join } from 'node:path'
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { heapHere } from '#core/kernels/heap-here'
import { anyHits, buildRayTree, closestHits, coneDirections, opennessOf } from '#core/kernels/ray-tree'
import { bakePart, sharedMesh, traced, twinOf } from '#core/mesh/bake-part'
import { QUALITIES, STANDARD_SETTINGS, optionsFor } from '#core/mesh/bake-settings'
import type { Baker } from '#core/mesh/baker'
import { bakers } from '#core/mesh/bakers/bakers.generated'
import type { Mesh } from '#core/mesh/mesh'
import { finishMesh } from '#core/mesh/mesh'
import type { SampleCount } from '#core/mesh/raster'
import { meshSummary } from '#core/mesh/mesh-summary'
import { readMesh } from '#core/mesh/read-mesh'
import { writeGlb } from '#core/mesh/write-glb'
import { randomNumbers } from '#core/testing/random-values'
import { sphere } from '#core/testing/solids'
import { demoModels } from '#demo/make/meshes/index'
import { onModelThreads, wakeModelThreads } from '#runtime/node/guarded-model'
import { openThreads } from '#runtime/node/threads'
import { uvAtlases } from '#runtime/node/uv-atlas'
import { lines, say, table } from './report'

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!
/** Seconds of CPU time that work takes on this thread, the median of three. */
async function seconds(work: () => unknown, times = 3): Promise<number> {
  const taken: number[] = []
  for (let i = 0; i < times; i++) {
    const began = process.cpuUsage()
    await work()
    const { user, system } = process.cpuUsage(began)
    taken.push((user + system) / 1e6)
  }
  return median(taken)
}
const peakMb = (): number => Math.round(process.resourceUsage().maxRSS / 1024)

/** A bumpy ball, so that no two of its triangles lie in one plane; latitude and longitude as UVs. */
function bumpyBall(rings: number, segments: number): Mesh {
  const { positions, triangles } = sphere(1, rings, segments)
  const uvs = Float32Array.from({ length: (positions.length / 3) * 2 }, (_, i) => {
    const vertex = i >> 1
    return i % 2 ? Math.floor(vertex / (segments + 1)) / rings : (vertex % (segments + 1)) / segments
  })
  for (let i = 0; i < positions.length; i += 3) {
    const bump =
      1 + 0.05 * Math.sin(positions[i]! * 23) * Math.sin(positions[i + 1]! * 19) * Math.sin(positions[i + 2]! * 29)
    for (let k = 0; k < 3; k++) positions[i + k] = positions[i + k]! * bump
  }
  const parts = [{ name: 'ball', material: null, from: 0, count: triangles.length / 3, uvSets: 1 }]
  return finishMesh({ positions, normals: null, uvSets: [uvs], colours: null, triangles, parts, notes: [] })
}

say('# Models')
say()
say(
  `Made by \`npm run bench:models\` on ${cpus().length} × ${cpus()[0]!.model.trim()}, Node ${process.version}. CPU time of one thread, medians of three (of rays: of nine, both in turn), unless it says otherwise.`,
)
say()

// Rays, beside a general-purpose tree in the same run.
{
  const mesh = bumpyBall(224, 226)
  const count = mesh.triangles.length / 3
  const build = await seconds(() => buildRayTree(mesh.positions, mesh.triangles))
  // Where kernels read it in place, as those of a bake.
  const tree = buildRayTree(mesh.positions, mesh.triangles, heapHere()!.allocate)
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
  geometry.setIndex(new BufferAttribute(mesh.triangles.slice(), 1))
  const theirBuild = await seconds(() => new MeshBVH(geometry.clone()), 1)
  const theirs = new MeshBVH(geometry)
  const random = randomNumbers(1)
  // From the surface outward, as occlusion goes, and from outside inward.
  const N = 200_000
  const rays = (inward: boolean): Float32Array => {
    const made = new Float32Array(N * 7)
    for (let i = 0; i < N; i++) {
      const vertex = Math.floor(random() * (mesh.positions.length / 3)) * 3
      for (let k = 0; k < 3; k++) {
        const [p, n] = [mesh.positions[vertex + k]!, mesh.normals[vertex + k]!]
        made[i * 7 + k] = p + n * (inward ? 0.5 : 1e-3)
        made[i * 7 + 3 + k] = inward ? -n + (random() - 0.5) * 0.2 : n + (random() * 2 - 1)
      }
      made[i * 7 + 6] = 2
    }
    return made
  }
  const [outward, inward] = [rays(false), rays(true)]
  // As a bake of occlusion sends them: from place to place, 16 about each, a third of the ball's radius long.
  const PLACES = 12_500
  const fan = coneDirections(16)
  const places = new Float32Array(PLACES * 6)
  const baked = new Float32Array(PLACES * 16 * 7)
  for (let i = 0; i < PLACES; i++) {
    const [p, n] = [mesh.positions.subarray(i * 3, i * 3 + 3), mesh.normals.subarray(i * 3, i * 3 + 3)]
    places.set(p, i * 6)
    places.set(n, i * 6 + 3)
    const [z, x] = [new Vector3(...n), new Vector3()]
    x.set(Math.abs(z.x) < 0.5 ? 1 : 0, Math.abs(z.x) < 0.5 ? 0 : 1, 0)
    x.addScaledVector(z, -x.dot(z)).normalize()
    const y = new Vector3().crossVectors(z, x)
    for (let k = 0; k < 16; k++) {
      const at = (i * 16 + k) * 7
      const way = new Vector3()
      way
        .addScaledVector(x, fan[k * 3]!)
        .addScaledVector(y, fan[k * 3 + 1]!)
        .addScaledVector(z, fan[k * 3 + 2]!)
      for (let c = 0; c < 3; c++) baked[at + c] = p[c]! + n[c]! * 1e-3
      baked.set(way.toArray(), at + 3)
      baked[at + 6] = 1 / 3
    }
  }
  const samples = { directions: fan, groups: 1, bias: 1e-3, most: 1 / 3 }
  const ray = new Ray()
  const theirRays = (given: Float32Array, some: number, far = 2): void => {
    for (let i = 0; i < some; i++) {
      ray.origin.set(given[i * 7]!, given[i * 7 + 1]!, given[i * 7 + 2]!)
      ray.direction.copy(new Vector3(given[i * 7 + 3]!, given[i * 7 + 4]!, given[i * 7 + 5]!))
      theirs.raycastFirst(ray, DoubleSide, 0, far)
    }
  }
  const SOME = 20_000
  const rate = (n: number, s: number): string => (n / s / 1e6).toFixed(2)
  /** A row: both in turn, as a machine's pace changes; medians of the rates and of their ratios. */
  const besides = async (what: string, ours: () => unknown, their: () => void): Promise<string[]> => {
    const rounds: { readonly own: number; readonly other: number }[] = []
    for (let i = 0; i < 9; i++) rounds.push({ own: await seconds(ours, 1), other: await seconds(their, 1) })
    const ratios = rounds.map(({ own, other }) => ((N / own) * other) / SOME)
    return [
      `${what}, million rays/s`,
      rate(N, median(rounds.map(({ own }) => own))),
      rate(SOME, median(rounds.map(({ other }) => other))),
      median(ratios).toFixed(1),
    ]
  }
  const fading = (fade: number) => () => opennessOf(tree, { places }, { ...samples, fade })
  const theirBaked = (): void => theirRays(baked, SOME, 1 / 3)
  const rows = [
    await besides('any hit, as a bake sends them', fading(0), theirBaked),
    await besides('closest, as a bake sends them', fading(1), theirBaked),
    await besides(
      'any hit, in no order',
      () => anyHits(tree, outward),
      () => theirRays(outward, SOME),
    ),
    await besides(
      'closest, in no order',
      () => closestHits(tree, inward),
      () => theirRays(inward, SOME),
    ),
  ]
  say(`## Rays through ${count} triangles`)
  say()
  table(
    ['what', 'ours', 'three-mesh-bvh', 'ratio'],
    [
      ['build, million triangles/s', rate(count, build), rate(count, theirBuild), (theirBuild / build).toFixed(1)],
      ...rows,
    ],
  )
}

// A large file: in, and surveyed.
{
  const large = bumpyBall(708, 708)
  const bytes = await writeGlb(large)
  let read: Mesh | null = null
  const reading = await seconds(async () => (read = (await readMesh('large.glb', bytes, { decoders: {} })).mesh), 1)
  const survey = await seconds(() => meshSummary(read!), 1)
  const folder = mkdtempSync(join(tmpdir(), 'bench-models-'))
  const [path, out] = [join(folder, 'large.glb'), join(folder, 'mesh')]
  writeFileSync(path, bytes)
  const task = { kind: 'import', path, file: 'large.glb', metresPerUnit: 1, textures: folder, out } as const
  const taken: number[] = []
  for (let i = 0; i < 3; i++) {
    // They start while a file is sent.
    wakeModelThreads()
    await new Promise((resolve) => setTimeout(resolve, 1000))
    const began = performance.now()
    await onModelThreads(task, ({ summary }) => summary)
    taken.push((performance.now() - began) / 1000)
    // Idle ones end: each is the first of its threads.
    await new Promise((resolve) => setTimeout(resolve, 6000))
  }
  rmSync(folder, { recursive: true })
  say(`## A GLB of ${large.triangles.length / 3} triangles (${Math.round(bytes.length / 1e6)} MB)`)
  say()
  table(
    ['what', 'seconds'],
    [
      ['read and checked', reading.toFixed(1)],
      ['layout truth', survey.toFixed(1)],
      ['both by threads that have just started, as the server does, by the clock', median(taken).toFixed(1)],
    ],
  )
  say(`Peak memory of the process so far: ${peakMb()} MB.`)
  say()
}

/** Drafts of all parts of the demo: the first that threads do after a tiny one, and the median of three more. */
async function drafts(): Promise<string[][]> {
  const { samples, rays, rayStep } = QUALITIES.draft
  const rows: string[][] = []
  for (const { low, high: twin } of await demoModels(await uvAtlases())) {
    for (const [n, { name }] of low.parts.entries()) {
      const threads = openThreads(2)
      const mesh = sharedMesh(low, threads.allocate)
      const part = mesh.parts[n]!
      const high = twin && traced(sharedMesh(twinOf(twin, part), threads.allocate), threads.allocate)
      const chosen = bakers.filter(({ needsTexture, needsHigh }) => !needsTexture && (high !== null || !needsHigh))
      const scene = high ?? traced(mesh, threads.allocate)
      const bake = async (width: number): Promise<number> => {
        const began = performance.now()
        const { fields } = await bakePart({
          ...{ mesh, part, uvSet: 0, bakers: chosen, scene, high, padding: 16, threads, samples },
          target: { width, height: width, left: 0, top: 0 },
          options: { ...optionsFor(STANDARD_SETTINGS, mesh), rays, rayStep },
        })
        const took = (performance.now() - began) / 1000
        // As the server does once they are kept.
        for (const field of fields.values()) field.planes.forEach((plane) => threads.free(plane))
        return took
      }
      await bake(64)
      const [first, ...again] = [await bake(1024), await bake(1024), await bake(1024), await bake(1024)]
      rows.push([name, String(chosen.length), first!.toFixed(2), median(again).toFixed(2)])
      await threads.close()
    }
  }
  return rows
}

// Every kind, of the demo's wheel from its high twin, by wall clock on one thread and on two.
{
  const [wheel] = await demoModels(await uvAtlases())
  const benches = [1, 2].map((count) => {
    const threads = openThreads(count)
    const mesh = sharedMesh(wheel!.low, threads.allocate)
    const part = mesh.parts[0]!
    const high = traced(sharedMesh(twinOf(wheel!.high!, part), threads.allocate), threads.allocate)
    return { count, threads, mesh, part, high }
  })
  const taken = async (
    chosen: readonly Baker[],
    size: number,
    count: number,
    samples: SampleCount,
    rays: number,
    rayStep = 1,
  ): Promise<string> => {
    const { threads, mesh, part, high } = benches.find((one) => one.count === count)!
    const bake = async (width: number): Promise<void> => {
      const { fields } = await bakePart({
        ...{ mesh, part, uvSet: 0, bakers: chosen, scene: high, high, padding: 16, threads, samples },
        target: { width, height: width, left: 0, top: 0 },
        options: { ...optionsFor(STANDARD_SETTINGS, mesh), rays, rayStep },
      })
      for (const field of fields.values()) field.planes.forEach((plane) => threads.free(plane))
    }
    // Threads and their code are there before the clock starts.
    await bake(64)
    const began = performance.now()
    await bake(size)
    return ((performance.now() - began) / 1000).toFixed(2)
  }
  const rows: string[][] = []
  for (const baker of bakers.filter(({ needsTexture }) => !needsTexture)) {
    const draft = [1, 16] as const
    rows.push([
      baker.name,
      await taken([baker], 1024, 1, ...draft),
      await taken([baker], 1024, 2, ...draft),
      await taken([baker], 2048, 2, ...draft),
    ])
  }
  say(
    `## Kinds of mesh data: seconds by the clock, 1 sample and 16 rays a texel, the wheel (${wheel!.low.parts[0]!.count} triangles, high twin ${wheel!.high!.triangles.length / 3})`,
  )
  say()
  table(['kind', '1024, one thread', '1024, two', '2048, two'], rows)
  const occlusion = bakers.find(({ name }) => name === 'occlusion')!
  say(
    `Occlusion at 2048 with 16 samples and 64 rays a texel, two threads: ${await taken([occlusion], 2048, 2, 16, 64)} s; at 1024 ${await taken([occlusion], 1024, 2, 16, 64)} s, on one thread ${await taken([occlusion], 1024, 1, 16, 64)} s. Peak memory of the process so far: ${peakMb()} MB.`,
  )
  for (const { threads } of benches) await threads.close()
  say()
  say(`## Drafts: all kinds of a part at 1024, two threads`)
  say()
  table(['part', 'kinds', 'first, s', 'again, s'], await drafts())
  say(`Peak memory of the process: ${peakMb()} MB.`)
  say()
}

writeFileSync('bench/MODELS.md', `${lines.join('\n')}\n`)
