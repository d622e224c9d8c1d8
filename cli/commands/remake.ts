import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { basename, join, resolve } from 'node:path'
import { GristError } from '#core/errors'
import { parseDocument } from '#core/document/document'
import { partOf } from '#core/document/domain'
import { meshDataHash } from '#runtime/node/mesh-data-hash'
import type { MeshDataSet } from '#core/mesh/mesh-data-record'
import { isMeshDataSet, parseMeshDataSet } from '#core/mesh/mesh-data-record'
import type { DeliveryRecord } from '#core/texture/record'
import { parsePacking } from '#core/texture/packing'
import { RECORD_NAME } from '#runtime/node/delivery-folder'
import { folderOf, readJson } from '#runtime/node/files'
import { checkFreeFolder } from '#runtime/node/staged-folder'
import type { Options } from '../options'
import { isInterrupted } from '../interrupts'

/** Makes a delivery, that of a model, or mesh data again from its record and compares what every file holds; --out keeps the new files. */
export async function remake(options: Options): Promise<number> {
  const path = options.words[0]
  if (!path) throw new GristError('usage', 'Which record.json?')
  const json = readJson(path)
  const stored = options.text('out')
  if (stored !== undefined) checkFreeFolder(stored, options.flag('replace'))
  if (isMeshDataSet(json)) return remakeMeshData(options, path, parseMeshDataSet(json))
  const { isModelRecord, parseModelRecord } = await import('#runtime/node/read-model-delivery')
  if (!isModelRecord(json)) return told(options, await remakeMaps(options, path, json, stored))
  const found: Compared[] = []
  for (const { folder } of parseModelRecord(json).sets) {
    const own = join(folderOf(path), folder, RECORD_NAME)
    const compared = await remakeMaps(options, own, readJson(own), stored && join(stored, folder))
    found.push(...compared.map(({ name, same }) => ({ name: `${folder}/${name}`, same })))
  }
  return told(options, found)
}

/** A file of a record, and whether it came out the same. */
interface Compared {
  readonly name: string
  readonly same: boolean
}

/** Tells what was compared; gives the program's answer. */
function told(options: Options, results: readonly Compared[]): number {
  if (options.flag('json')) console.log(JSON.stringify(results, null, 2))
  else for (const { name, same } of results) console.log(`${same ? 'same   ' : 'DIFFERS'} ${name}`)
  return results.every(({ same }) => same) ? 0 : 1
}

/** Makes the maps of a delivery's record again; `stored` keeps them. */
async function remakeMaps(
  options: Options,
  path: string,
  json: unknown,
  stored: string | undefined,
): Promise<Compared[]> {
  const { isSameFile, parseRecord } = await import('#core/texture/record')
  const record = parseRecord(json)
  const on = partOf(parseDocument(record.joint?.[0]?.document ?? record.document))
  if (on && options.text('mesh') === undefined)
    throw new GristError(
      'usage',
      `This was made on "${on.name}": name its model by --mesh, with --high and --cage if it had them.`,
    )
  const out = stored ?? mkdtempSync(join(tmpdir(), 'grist-remake-'))
  try {
    const keeps = { images: stored !== undefined, replace: options.flag('replace') }
    const again = await (record.joint ? remadeJoint : remadeMaterial)(options, path, record, out, keeps)
    return record.files.map((file) => {
      const own = again.files.find((one) => one.name === file.name)
      return { name: file.name, same: isSameFile(file, own) }
    })
  } finally {
    if (!stored) rmSync(out, { recursive: true, force: true })
  }
}

interface Keeps {
  readonly images: boolean
  readonly replace: boolean
}

/** One material, on a part where it lay on one. */
async function remadeMaterial(
  options: Options,
  path: string,
  record: DeliveryRecord,
  out: string,
  keeps: Keeps,
): Promise<DeliveryRecord> {
  const { FolderAssets, deliverMaterial } = await import('../workplace')
  const document = parseDocument(record.document)
  const on = partOf(document)
  const packing = parsePacking(record.packing)
  const assets = new FolderAssets(options.text('assets') ?? folderOf(path), record.assets)
  const { dither, sharpen, width, names } = record
  const made = await deliverMaterial(
    options,
    {
      ...{ document, assets, packing, width, dither, sharpen, names, what: 'remake', ...keeps },
      // Of a part that it lay on alone nothing was baked for its channels to lie on.
      alone: on !== null && on.data.normal === undefined && on.data.occlusion === undefined,
    },
    out,
  )
  return made.record
}

/** Several materials that share files, on the parts of the model that --mesh names. */
async function remadeJoint(
  options: Options,
  path: string,
  record: DeliveryRecord,
  out: string,
  keeps: Keeps,
): Promise<DeliveryRecord> {
  const { deliverFileSet, layFileSet } = await import('../file-set')
  const { modelOf, partNamed } = await import('../on-mesh')
  const { FolderAssets, progressBar } = await import('../workplace')
  const { openThreads, usualThreads } = await import('#runtime/node/threads')
  const assets = new FolderAssets(options.text('assets') ?? folderOf(path), record.assets)
  const { dither, sharpen, width, names } = record
  const packing = parsePacking(record.packing)
  const documents = record.joint!.map((one) => parseDocument(one.document))
  const model = await modelOf(options, width, partOf(documents[0]!))
  const materials = record.joint!.map(({ part, ids }, k) => ({
    // Two parts may be called alike.
    part: partOf(documents[k]!)?.part ?? partNamed(model.model.mesh, part),
    ...(ids ? { ids } : {}),
    ...{ document: documents[k]!, assets },
  }))
  const threads = openThreads(options.whole('threads', usualThreads()))
  try {
    const udim = partOf(documents[0]!)?.udim
    const laid = await layFileSet(threads, model.model, { ...model, udim, packing, materials })
    const onProgress = progressBar(options, 'remake')
    const asked = { packing, width, dither, sharpen, names, onProgress }
    return (await deliverFileSet(options, threads, laid, asked, out, keeps)).record
  } finally {
    await threads.close()
  }
}

/** Bakes what a record of mesh data tells once more, and compares what every file holds. Nothing is written. */
async function remakeMeshData(options: Options, path: string, set: MeshDataSet): Promise<number> {
  const { openModelFiles } = await import('../model-files')
  const { bakeModel } = await import('#runtime/node/bake-model')
  const { openThreads, usualThreads } = await import('#runtime/node/threads')
  const { layoutOf } = await import('#core/mesh/layout')
  const { APPLICATION, progressBar } = await import('../workplace')
  const folder = options.text('assets') ?? folderOf(path)
  const at = (name: string | undefined): string | undefined => name && resolve(folder, name)
  const { model, high, cage, image, unit } = set.files
  const files = { model: at(model)!, high: at(high), cage: at(cage), image: at(image), unit }
  const opened = await openModelFiles(files)
  const threads = openThreads(options.whole('threads', usualThreads()))
  const progress = progressBar(options, 'remake')
  const again = new Map<string, string>()
  const nameOf = ({ part, kind, udim }: { part: number; kind: string; udim: number }): string =>
    `${part}/${kind}/${udim}`
  try {
    await bakeModel(threads, {
      ...opened,
      ...{ name: basename(model), application: APPLICATION, settings: set.settings },
      cells: set.entries.map(({ record: { place } }) => place),
      tilesOf: (part) => layoutOf(opened.mesh, opened.mesh.parts[part]!, set.settings.uvSet).tiles,
      onBaked: async ({ place, baker, field }) => void again.set(nameOf(place), meshDataHash(baker, field)),
      onProgress: ({ whole }) => progress(whole),
      isCancelled: isInterrupted,
    })
  } finally {
    await threads.close()
  }
  const isAgain = ({ record }: (typeof set.entries)[number]): boolean =>
    again.get(nameOf(record.place)) === record.sha256
  return told(
    options,
    set.entries.map((entry) => ({ name: entry.file, same: isAgain(entry) })),
  )
}
