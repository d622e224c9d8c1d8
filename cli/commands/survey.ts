import { writeFileSync } from 'node:fs'
import { basename, extname, join, relative, resolve } from 'node:path'
import { GristError } from '#core/errors'
import type { Field } from '#core/field/field'
import type { BakeSettings, Quality } from '#core/mesh/bake-settings'
import { BAKE_SIZES, QUALITIES, RAY_STEPS, STANDARD_SETTINGS, bakeSettings } from '#core/mesh/bake-settings'
import type { Baker } from '#core/mesh/baker'
import { bakers } from '#core/mesh/bakers/bakers.generated'
import type { LayoutFacts } from '#core/mesh/layout-facts'
import { layoutFacts, layoutProblems } from '#core/mesh/layout-facts'
import { layoutOf } from '#core/mesh/layout'
import type { Mesh, MeshPart } from '#core/mesh/mesh'
import { boxOf } from '#core/mesh/mesh'
import { bakerNamed, kindsFor } from '#core/mesh/mesh-data'
import { meshDataHash } from '#runtime/node/mesh-data-hash'
import type { MeshDataEntry } from '#core/mesh/mesh-data-record'
import { meshDataSet } from '#core/mesh/mesh-data-record'
import { SAMPLE_COUNTS } from '#core/mesh/raster'
import type { PartData } from '#core/mesh/vertex-result'
import { shownBy, vertexResult } from '#core/mesh/vertex-result'
import { writeObj } from '#core/mesh/write-obj'
import { writeGlb } from '#core/mesh/write-glb'
import { writePly } from '#core/mesh/write-ply'
import { meshDataFileEnding, writeMeshData } from '#core/texture/mesh-data-file'
import type { BakedMeshData } from '#runtime/node/bake-model'
import { bakeModel } from '#runtime/node/bake-model'
import { createFile } from '#runtime/node/files'
import { applicationName } from '#runtime/node/program'
import { stagedFolder } from '#runtime/node/staged-folder'
import { openThreads, usualThreads } from '#runtime/node/threads'
import { isInterrupted } from '../interrupts'
import type { ModelFiles, OpenModel } from '../model-files'
import { openModelFiles } from '../model-files'
import type { Options } from '../options'
import { progressBar } from '../workplace'

/** How a model lies in its UVs; with --kinds its mesh data are baked into a folder. 1 where the layout has problems. */
export async function survey(options: Options): Promise<number> {
  const [path] = options.words
  if (!path) throw new GristError('usage', 'Which model?')
  const kinds = kindsOf(options)
  const files = filesOf(path, options)
  const model = await openModelFiles(files)
  const { mesh } = model
  const settings = settingsOf(options)
  const { size, uvSet } = settings
  const facts = partsOf(mesh, options.text('part')).map((part) => ({
    part,
    layout: part.uvSets > uvSet ? layoutFacts(layoutOf(mesh, part, uvSet), size) : null,
  }))
  const baked = kinds.length > 0 ? await bakeAll(options, files, model, facts, kinds, settings) : []
  const vertex = options.text('vertex')
  if (vertex !== undefined) await writeVertexResult(options, model, facts, vertex, settings)
  if (options.flag('json')) console.log(JSON.stringify(truth(mesh, facts, baked, size), null, 2))
  else if (!options.flag('quiet')) tell(mesh, facts, baked, size)
  return facts.some(({ layout }) => layout === null || layoutProblems(layout, size).length > 0) ? 1 : 0
}

const filesOf = (model: string, options: Options): ModelFiles => ({
  model,
  high: options.text('high'),
  cage: options.text('cage'),
  image: options.text('image'),
  unit: options.number('unit', 1, [1e-6, 1e6]),
})

function settingsOf(options: Options): BakeSettings {
  const metres = (name: string): number | null =>
    options.text(name) === undefined ? null : options.number(name, 0, [1e-9, 1e6])
  const distance = metres('distance')
  const quality = options.text('quality')
  if (quality !== undefined && !Object.hasOwn(QUALITIES, quality))
    throw new GristError('usage', `Expected --quality as ${Object.keys(QUALITIES).join(', ')}.`)
  const standard = { ...STANDARD_SETTINGS, ...(quality === undefined ? {} : QUALITIES[quality as Quality]) }
  const given = {
    ...standard,
    size: options.whole('size', STANDARD_SETTINGS.size),
    samples: options.whole('samples', standard.samples),
    rays: options.whole('rays', standard.rays),
    rayStep: options.whole('ray-step', standard.rayStep),
    padding: options.number('padding', STANDARD_SETTINGS.padding, [0, 512]),
    uvSet: options.whole('uv-set', 1) - 1,
    ...{ reach: metres('reach'), radius: metres('radius'), front: distance, back: distance },
    transferFrom: options.text('high') === undefined ? 0 : 1,
    transferBy: options.flag('nearest') ? 1 : 0,
    transferSet: options.whole('image-set', 1) - 1,
  }
  const checked = bakeSettings.safeParse(given)
  if (checked.success) return checked.data
  const [issue] = checked.error.issues
  const name = String(issue!.path[0])
  const words: Record<string, string> = {
    size: `Expected --size as ${BAKE_SIZES.join(', ')}.`,
    rayStep: `Expected --ray-step as ${RAY_STEPS.join(', ')}.`,
    samples: `Expected --samples as ${SAMPLE_COUNTS.join(', ')}.`,
  }
  throw new GristError('usage', words[name] ?? `--${name}: ${issue!.message}.`)
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

type PartFacts = readonly { readonly part: MeshPart; readonly layout: LayoutFacts | null }[]

/** What a model is baked by, on its own threads. */
async function bakeWith(
  options: Options,
  name: string,
  model: OpenModel,
  facts: PartFacts,
  kinds: readonly Baker[],
  settings: BakeSettings,
  onBaked: (made: BakedMeshData) => Promise<void>,
): Promise<void> {
  const threads = openThreads(options.whole('threads', usualThreads()))
  const progress = progressBar(options, 'bake')
  try {
    await bakeModel(threads, {
      ...{ name, application: applicationName(), settings, onBaked },
      ...model,
      cells: facts.flatMap(({ part }) =>
        kinds.map(({ name: kind }) => ({ part: model.mesh.parts.indexOf(part), kind })),
      ),
      tilesOf: (number) => facts.find(({ part }) => part === model.mesh.parts[number])?.layout?.tiles ?? [],
      onProgress: ({ whole }) => progress(whole),
      isCancelled: isInterrupted,
    })
  } finally {
    await threads.close()
  }
}

async function bakeAll(
  options: Options,
  named: ModelFiles,
  model: OpenModel,
  facts: PartFacts,
  kinds: readonly Baker[],
  settings: BakeSettings,
): Promise<BakedFile[]> {
  const staged = stagedFolder(options.need('out'), { replace: options.flag('replace') })
  const files: BakedFile[] = []
  const entries: MeshDataEntry[] = []
  try {
    await bakeWith(options, basename(named.model), model, facts, kinds, settings, async (made) => {
      const { place, part, baker, field, missed, record } = made
      const tile = place.udim === 1001 ? '' : `_${place.udim}`
      const file = `${safe(part)}_${baker.name}${tile}.${meshDataFileEnding(baker)}`
      if (files.some((one) => one.file === file))
        throw new GristError('mesh-invalid', 'Two parts would be written to one file; give them names of their own.', {
          part,
        })
      await write(join(staged.path, file), baker, field)
      files.push({ part, kind: baker.name, file, missedTexels: missed })
      entries.push({ file, record: record(meshDataHash(baker, field)) })
    })
    const set = meshDataSet({ ...named, ...relativeTo(options.need('out'), named) }, settings, entries)
    writeFileSync(join(staged.path, 'record.json'), `${JSON.stringify(set, null, 2)}\n`)
    staged.commit()
    return files
  } catch (error) {
    staged.discard()
    throw error
  }
}

/** Files as the folder of a record names them. */
function relativeTo(folder: string, { model, high, cage, image }: ModelFiles): Omit<ModelFiles, 'unit'> {
  const named = (path: string | undefined): string | undefined => path && relative(resolve(folder), resolve(path))
  return { model: named(model)!, high: named(high), cage: named(cage), image: named(image) }
}

/** One kind as vertex colours of the model: --vertex KIND --vertex-out F.(glb|ply|obj). */
async function writeVertexResult(
  options: Options,
  model: OpenModel,
  facts: PartFacts,
  kind: string,
  settings: BakeSettings,
): Promise<void> {
  const out = options.need('vertex-out')
  const ending = extname(out)
  if (!['.glb', '.ply', '.obj'].includes(ending))
    throw new GristError('usage', `Expected --vertex-out with .glb, .ply or .obj but received "${ending}".`)
  const baker = bakerNamed(kind)
  if (!baker) throw new GristError('usage', `There is no mesh data "${kind}".`)
  const parts = new Map<number, PartData & { tiles: Map<number, Field> }>()
  await bakeWith(options, basename(out), model, facts, [baker], settings, async (made) => {
    const { part } = made.place
    const shown = shownBy(baker, made.scale)
    const known = parts.get(part) ?? { part: model.mesh.parts[part]!, shown, tiles: new Map<number, Field>() }
    // Its memory is given back when the next is made.
    const planes = made.field.planes.map((plane) => plane.slice())
    known.tiles.set(made.place.udim, { ...made.field, planes })
    parts.set(part, known)
  })
  const coloured = vertexResult(model.mesh, settings.uvSet, [...parts.values()])
  const file = createFile(out)
  if (ending === '.obj') file.output.append(new TextEncoder().encode(writeObj(coloured, { uvSet: settings.uvSet })))
  else file.output.append(ending === '.ply' ? writePly(coloured) : await writeGlb(coloured))
  await file.close()
}

const safe = (name: string): string => name.replace(/[^\p{L}\p{N}._-]+/gu, '-').replace(/^[.-]+|[.-]+$/g, '') || 'part'

async function write(path: string, kind: Baker, field: Field): Promise<void> {
  const file = createFile(path)
  writeMeshData(kind, field, file.output)
  await file.close()
}

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
