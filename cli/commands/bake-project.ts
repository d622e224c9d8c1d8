import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { GristError } from '#core/errors'
import type { ProjectFile, ProjectModel } from '#core/exchange/project-file'
import { partNumber, joinsOf } from '#core/exchange/project-file'
import { STANDARD_SETTINGS } from '#core/mesh/bake-settings'
import { fileSets } from '#core/mesh/file-sets'
import type { Packing } from '#core/texture/packing'
import type { ModelRecord, SetToDeliver } from '#runtime/node/deliver-parts'
import { deliverParts, safeName, setFindings } from '#runtime/node/deliver-parts'
import { stagedFolder } from '#runtime/node/staged-folder'
import type { Threads } from '#runtime/node/threads'
import { openThreads, usualThreads } from '#runtime/node/threads'
import { openDocument } from '../documents'
import { openModelFiles } from '../model-files'
import { sizeFor, tilesOfPart } from '../on-mesh'
import type { Options } from '../options'
import { packingNamed } from '../packing-named'
import { APPLICATION, FolderAssets, progressBar } from '../workplace'
import type { LaidSet, SetMaterial } from '../file-set'
import { channelOfFileSet, deliverFileSet, layFileSet } from '../file-set'

/** Maps of all parts of a project that have a material, and the models that wear them: a folder for each model. */
export async function bakeProject(
  { project, folder }: { readonly project: ProjectFile; readonly folder: string },
  options: Options,
): Promise<number> {
  const [packing, out] = [await packingNamed(options.need('packing')), options.need('out')]
  const dressed = project.models.filter(({ parts }) => parts.length > 0)
  if (dressed.length === 0)
    throw new GristError('usage', `No part of “${project.name}” has a material yet. Put one on a part first.`)
  const staged = stagedFolder(out, { replace: options.flag('replace') })
  const executor = openThreads(options.whole('threads', usualThreads()))
  const taken = new Set<string>()
  try {
    for (const model of dressed) {
      const name = freeName(safeName(model.name), taken)
      mkdirSync(join(staged.path, name))
      const record = await bakeModelOf(
        model,
        { folder, packing, project: project.name, executor },
        join(staged.path, name),
        options,
      )
      if (!options.flag('quiet')) {
        for (const { folder: own, files, materials } of record.sets) {
          const of = [...new Set(materials.map(({ material }) => material))].join(', ')
          console.log(`${name}/${own}: ${files.length} files of ${of}`)
        }
        for (const words of setFindings(record)) console.log(`▲ ${name}/${words}`)
      }
    }
    const backup = staged.commit()
    if (backup && !options.flag('quiet')) console.log(`What was there is kept in ${backup}.`)
    return 0
  } finally {
    await executor.close()
    staged.discard()
  }
}

/** All parts of a model that have a material. */
async function bakeModelOf(
  { name, mesh, high, cage, unit, settings, parts, joins }: ProjectModel,
  { folder, packing, project, executor }: { folder: string; packing: Packing; project: string; executor: Threads },
  out: string,
  options: Options,
): Promise<ModelRecord> {
  const at = (path: string | undefined): string | undefined => (path === undefined ? undefined : join(folder, path))
  const model = await openModelFiles({ model: at(mesh)!, high: at(high), cage: at(cage), unit })
  const width = options.whole('size', 1024)
  const baked = { ...STANDARD_SETTINGS, ...settings, size: settings.size ?? sizeFor(width), transferImage: null }
  const names = model.mesh.parts.map((part) => part.name)
  const files = new Map<string, Pick<SetMaterial, 'document' | 'assets'>>()
  for (const { material } of parts) {
    if (files.has(material)) continue
    const { document, folder: beside } = await openDocument(join(folder, material))
    files.set(material, { document, assets: new FolderAssets(options.text('assets') ?? beside) })
  }
  const placed = parts.map(({ material, ids, ...named }): SetMaterial => ({
    ...{ part: partNumber(named, names), ...files.get(material)! },
    ...(ids ? { ids } : {}),
  }))
  // What was baked of the set at work: its maps are made twice where the model wears others.
  let newest: { readonly of: unknown; readonly laid: LaidSet } | null = null
  const planned = fileSets(placed, joinsOf({ joins }, names), (part) => tilesOfPart(model.mesh, part, baked))
  const sets = planned.map((set): SetToDeliver => {
    const { part, udim, placed: materials } = set
    const lay = async (): Promise<LaidSet> => {
      if (newest?.of === set) return newest.laid
      newest = null
      const laid = await layFileSet(executor, model, { path: mesh, settings: baked, udim, packing, materials })
      newest = { of: set, laid }
      return laid
    }
    return {
      ...{ part, materials, ...(udim === undefined ? {} : { udim }) },
      deliver: async (by, to, onProgress) => {
        const laid = await lay()
        const asked = { packing: by, width, dither: options.flag('dither'), names: { project }, onProgress }
        return deliverFileSet(options, executor, laid, asked, to)
      },
      channel: async (id) => channelOfFileSet(options, executor, await lay(), id, width),
    }
  })
  const { uvSet } = baked
  const { record } = await deliverParts(
    {
      ...{ name, mesh: model.mesh, meshHash: model.contents.mesh, uvSet, packing, application: APPLICATION },
      ...{ sets, vertices: options.text('vertices'), onProgress: progressBar(options, name) },
    },
    out,
  )
  return record
}

/** A folder's name that no other model has. */
function freeName(name: string, taken: Set<string>): string {
  let free = name
  for (let n = 2; taken.has(free.toLowerCase()); n++) free = `${name}-${n}`
  taken.add(free.toLowerCase())
  return free
}
