import { join } from 'node:path'
import { GristError } from '#core/errors'
import type { Field } from '#core/field/field'
import type { BakeOptions, Baker } from '#core/mesh/baker'
import { bakePart, sharedMesh, standardOptions, traced, twinOf } from '#core/mesh/bake-part'
import { bakers } from '#core/mesh/bakers/bakers.generated'
import type { LayoutFacts } from '#core/mesh/layout-facts'
import { layoutFacts, layoutProblems } from '#core/mesh/layout-facts'
import { layoutOf } from '#core/mesh/layout'
import type { Mesh, MeshPart } from '#core/mesh/mesh'
import { boxOf } from '#core/mesh/mesh'
import type { SampleCount } from '#core/mesh/raster'
import { SAMPLE_COUNTS } from '#core/mesh/raster'
import { kindsFor, tilePlace } from '#core/mesh/mesh-data'
import { meshDataFileEnding, writeMeshData } from '#core/texture/mesh-data-file'
import { createFile } from '#runtime/node/files'
import { readModelFile } from '#runtime/node/read-model'
import { openThreads, usualThreads } from '#runtime/node/threads'
import { stagedFolder } from '#runtime/node/staged-folder'
import { isInterrupted } from '../interrupts'
import type { Options } from '../options'
import { progressBar } from '../workplace'

/** How a model lies in its UVs; with --kinds its mesh data are baked into a folder. 1 where the layout has problems. */
export async function survey(options: Options): Promise<number> {
  const [path] = options.words
  if (!path) throw new GristError('usage', 'Which model?')
  const size = options.whole('size', 1024)
  const set = options.whole('uv-set', 1) - 1
  const kinds = kindsOf(options)
  const unit = options.number('unit', 1, [1e-6, 1e6])
  const { mesh } = await readModelFile(path, unit)
  const parts = partsOf(mesh, options.text('part'))
  const facts = parts.map((part) => ({
    part,
    layout: part.uvSets > set ? layoutFacts(layoutOf(mesh, part, set), size) : null,
  }))
  const baked = kinds.length > 0 ? await bakeAll(options, mesh, facts, kinds, { size, set, unit }) : []
  if (options.flag('json')) console.log(JSON.stringify(truth(mesh, facts, baked, size), null, 2))
  else if (!options.flag('quiet')) tell(mesh, facts, baked, size)
  return facts.some(({ layout }) => layout === null || layoutProblems(layout, size).length > 0) ? 1 : 0
}

function kindsOf(options: Options): Baker[] {
  const text = options.text('kinds')
  if (text === undefined) return []
  options.need('out')
  const able = kindsFor({
    high: options.text('high') !== undefined,
    colours: true,
    texture: options.text('image') !== undefined,
  })
  if (text === 'all') return [...able]
  return text.split(',').map((name) => {
    const kind = able.find((one) => one.name === name.trim())
    if (kind) return kind
    const needs = bakers.some((one) => one.name === name.trim())
    throw new GristError(
      'usage',
      needs
        ? `"${name}" is made of a high twin (--high) or an image (--image), which is not named.`
        : `There is no mesh data "${name}". There are: ${bakers.map((one) => one.name).join(', ')}, or all.`,
    )
  })
}

export function partsOf(mesh: Mesh, name: string | undefined): readonly MeshPart[] {
  if (name === undefined) return mesh.parts
  const found = mesh.parts.filter((part) => part.name === name)
  if (found.length > 0) return found
  throw new GristError(
    'usage',
    `There is no part "${name}". There are: ${mesh.parts.map((part) => part.name).join(', ')}.`,
  )
}

interface BakedFile {
  readonly part: string
  readonly kind: string
  readonly file: string
  readonly missedTexels: number
}

async function bakeAll(
  options: Options,
  given: Mesh,
  facts: PartFacts,
  kinds: readonly Baker[],
  { size, set, unit }: { size: number; set: number; unit: number },
): Promise<BakedFile[]> {
  const high = options.text('high')
  const highMesh = high === undefined ? null : (await readModelFile(high, unit)).mesh
  const how = optionsOf(options, given)
  const samples = options.whole('samples', 4) as SampleCount
  if (!SAMPLE_COUNTS.includes(samples))
    throw new GristError('usage', `Expected --samples as ${SAMPLE_COUNTS.join(', ')}.`)
  const threads = openThreads(options.whole('threads', usualThreads()))
  const { allocate } = threads
  const mesh = sharedMesh(given, allocate)
  const whole = highMesh ? null : traced(mesh, allocate)
  const staged = stagedFolder(options.need('out'), { replace: options.flag('replace') })
  const files: BakedFile[] = []
  try {
    for (const [i, { part, layout }] of facts.entries()) {
      const own = highMesh ? traced(sharedMesh(twinOf(highMesh, part), allocate), allocate) : null
      const progress = progressBar(options, part.name)
      // Where it has no UVs, or lies outside of every tile, the bake tells.
      for (const udim of layout?.tiles.length ? layout.tiles : [1001]) {
        const { fields, missed } = await bakePart({
          mesh,
          part,
          uvSet: set,
          target: { width: size, height: size, ...tilePlace(udim) },
          samples,
          bakers: kinds,
          options: how,
          scene: own ?? whole!,
          high: own,
          threads,
          padding: options.whole('padding', 16),
          onProgress: (ratio) => progress((i + ratio) / facts.length),
          isCancelled: isInterrupted,
        })
        for (const kind of kinds) {
          const file = `${safe(part.name)}_${kind.name}${udim === 1001 ? '' : `_${udim}`}.${meshDataFileEnding(kind)}`
          if (files.some((one) => one.file === file))
            throw new GristError(
              'mesh-invalid',
              'Two parts would be written to one file; give them names of their own.',
              { part: part.name },
            )
          await write(join(staged.path, file), kind, fields.get(kind.name)!)
          files.push({ part: part.name, kind: kind.name, file, missedTexels: missed[kind.name]! })
        }
      }
    }
    staged.commit()
    return files
  } catch (error) {
    staged.discard()
    throw error
  } finally {
    await threads.close()
  }
}

function optionsOf(options: Options, mesh: Mesh): BakeOptions {
  const standard = standardOptions(mesh)
  const metres = (name: string, fallback: number): number => options.number(name, fallback, [1e-9, 1e6])
  const distance = metres('distance', standard.front)
  return {
    ...standard,
    rays: Math.min(4096, options.whole('rays', standard.rays)),
    reach: metres('reach', standard.reach),
    radius: metres('radius', standard.radius),
    front: distance,
    back: distance,
  }
}

const safe = (name: string): string => name.replace(/[^\p{L}\p{N}._-]+/gu, '-').replace(/^[.-]+|[.-]+$/g, '') || 'part'

async function write(path: string, kind: Baker, field: Field): Promise<void> {
  const file = createFile(path)
  writeMeshData(kind, field, file.output)
  await file.close()
}

type PartFacts = readonly { readonly part: MeshPart; readonly layout: LayoutFacts | null }[]

function truth(mesh: Mesh, facts: PartFacts, baked: readonly BakedFile[], size: number): object {
  return {
    triangles: mesh.triangles.length / 3,
    vertices: mesh.positions.length / 3,
    box: boxOf(mesh),
    uvSets: mesh.uvSets.length,
    colours: mesh.colours !== null,
    notes: mesh.notes,
    parts: facts.map(({ part, layout }) => ({
      name: part.name,
      material: part.material,
      triangles: part.count,
      uvSets: part.uvSets,
      layout,
      problems: layout ? layoutProblems(layout, size).map(({ words }) => words) : ['it has no UVs in this set'],
    })),
    files: baked,
  }
}

function tell(mesh: Mesh, facts: PartFacts, baked: readonly BakedFile[], size: number): void {
  const { min, max } = boxOf(mesh)
  const metres = min.map((v, k) => (max[k]! - v).toPrecision(3)).join(' × ')
  console.log(`${mesh.triangles.length / 3} triangles in ${facts.length} of ${mesh.parts.length} parts, ${metres} m`)
  for (const note of mesh.notes) console.log(`  ${note}`)
  for (const { part, layout } of facts) {
    console.log(`${part.name}: ${part.count} triangles${part.material ? `, material ${part.material}` : ''}`)
    if (!layout) {
      console.log('  ▲ it has no UVs in this set')
      continue
    }
    const { islands, usedArea, texelsPerMetre, stretch } = layout
    console.log(
      `  ${islands} islands, ${(usedArea * 100).toFixed(1)} % of its tiles, ${texelsPerMetre.mean.toFixed(0)} texels a metre at ${size} (${texelsPerMetre.min.toFixed(0)}–${texelsPerMetre.max.toFixed(0)}), stretch ${stretch.mean.toFixed(2)}`,
    )
    for (const { words } of layoutProblems(layout, size)) console.log(`  ▲ ${words}`)
  }
  for (const { file, missedTexels } of baked)
    console.log(`${file}${missedTexels > 0 ? `  ▲ ${missedTexels} texels where the high twin was not met` : ''}`)
}
