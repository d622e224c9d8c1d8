import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { deliverableChannels } from '#core/document/channels'
import { GristError } from '#core/errors'
import type { ProjectFile, ProjectModel } from '#core/exchange/project-file'
import { partNumber } from '#core/exchange/project-file'
import { STANDARD_SETTINGS } from '#core/mesh/bake-settings'
import { channelsOfPacking } from '#core/texture/packing'
import type { Packing } from '#core/texture/packing'
import type { ModelRecord, PartToDeliver } from '#runtime/node/deliver-parts'
import { deliverParts, safeName } from '#runtime/node/deliver-parts'
import { stagedFolder } from '#runtime/node/staged-folder'
import type { Threads } from '#runtime/node/threads'
import { openThreads, usualThreads } from '#runtime/node/threads'
import { openDocument } from '../documents'
import { isInterrupted } from '../interrupts'
import { openModelFiles } from '../model-files'
import type { OnMesh } from '../on-mesh'
import { layOnPart, sizeFor } from '../on-mesh'
import type { Options } from '../options'
import { packingNamed } from '../packing-named'
import { APPLICATION, FolderAssets, budgetOf, deliverToFolder, progressBar, withPlaced } from '../workplace'

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
      if (!options.flag('quiet'))
        for (const part of record.parts)
          console.log(`${name}/${part.folder}: ${part.files.length} files of ${part.material}`)
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
  { name, mesh, high, cage, unit, settings, parts }: ProjectModel,
  { folder, packing, project, executor }: { folder: string; packing: Packing; project: string; executor: Threads },
  out: string,
  options: Options,
): Promise<ModelRecord> {
  const at = (path: string | undefined): string | undefined => (path === undefined ? undefined : join(folder, path))
  const model = await openModelFiles({ model: at(mesh)!, high: at(high), cage: at(cage), unit })
  const width = options.whole('size', 1024)
  const baked = { ...STANDARD_SETTINGS, ...settings, size: settings.size ?? sizeFor(width), transferImage: null }
  const names = model.mesh.parts.map((part) => part.name)
  const laid: PartToDeliver[] = []
  // What was baked of the part at work: its maps are made twice where the model wears others.
  let newest: { readonly part: number; readonly on: OnMesh } | null = null
  for (const placed of parts) {
    const part = partNumber(placed, names)
    const { document, folder: beside } = await openDocument(join(folder, placed.material))
    const assets = new FolderAssets(options.text('assets') ?? beside)
    const delivery = channelsOfPacking(packing, deliverableChannels(document))
    laid.push({
      ...{ part, document },
      deliver: async (by, to, onProgress) => {
        if (newest?.part !== part) {
          newest = null
          const on = await layOnPart(executor, { path: mesh, model, part, settings: baked, document, delivery })
          newest = { part, on }
        }
        const [hashes, images] = [await assets.hashes(document), await assets.sources(document)]
        return withPlaced(newest.on, assets, executor, (material) =>
          deliverToFolder(
            material,
            {
              ...{ packing: by, width, dither: options.flag('dither'), names: { project }, application: APPLICATION },
              ...{ assets: hashes, coders: executor, budgetBytes: budgetOf(options), isCancelled: isInterrupted },
              onProgress,
            },
            to,
            { images },
          ),
        )
      },
    })
  }
  const { record } = await deliverParts(
    {
      ...{
        name,
        mesh: model.mesh,
        meshHash: model.contents.mesh,
        uvSet: baked.uvSet,
        packing,
        application: APPLICATION,
      },
      ...{ parts: laid, onProgress: progressBar(options, name) },
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
