import { randomUUID } from 'node:crypto'
import { isDeepStrictEqual } from 'node:util'
import type { Knex } from 'knex'
import type { z } from 'zod'
import type { MaterialDocument } from '#core/document/document'
import { channelsMadeOf, documentOfSet, needsModel, workflowOf } from '#core/document/document-of-set'
import { setClashes } from '#core/document/set-clash'
import { simpleRatio } from '#core/document/simple-ratio'
import { fixedChannel } from '#core/document/channels'
import type { PlaneOfImage } from '#core/texture/region-spread'
import { regionSpreads } from '#core/texture/region-spread'
import { GristError } from '#core/errors'
import { packingForChannels } from '#core/texture/packing-for-channels'
import type { RasterImage } from '#core/field/pyramid'
import { valuesOfRaster } from '#core/field/raster'
import type { FoundRole, JudgedFile } from '#core/texture/find-role'
import { evidenceOf, findRoles, meansOf } from '#core/texture/find-role'
import type { FileToReplace, Replacement } from '#core/texture/replacing'
import { replacing } from '#core/texture/replacing'
import { formOrProblem } from '#runtime/node/file-form'
import type { FileRole, MapSet, MapSetFile, Said, SetRegions, newMapSet } from '../../contracts/map-set'
import type { StoredImage } from '../assets/assets.server'
import { findAsset, rasterOf } from '../assets/assets.server'
import { database, one } from '../database/database.server'
import { createDocument, openDocument } from '../documents/documents.server'
import { Problem } from '../http/problem.server'
import { addDocument } from '../projects/materials.server'
import { enqueue, enqueueBake } from '../runs/runs.server'
import { readBlob, wholeBlob } from '../storage/blobs.server'

const SELECT = `select s.id, s.name, s.width_metres as "widthMetres", s.height_metres as "heightMetres", s.files, d.id as "documentId", s.changed_at as "changedAt"
  from map_sets s left join documents d on d.id = s.document_id and d.deleted_at is null`
/** Sets that a project may have. */
const MAX_SETS = 1000

/** Sets of a project, the newest first. */
export async function listMapSets(projectId: string): Promise<MapSet[]> {
  const { rows } = await database().raw<{ rows: MapSet[] }>(
    `${SELECT} where s.project_id = ? and s.deleted_at is null order by s.created_at desc, s.id`,
    [projectId],
  )
  return rows
}

/** A copy of a project takes its sets along; those that are open as a material go with its copy. */
export async function copyMapSets(
  transaction: Knex.Transaction,
  from: string,
  to: string,
  documents: ReadonlyMap<string, string>,
): Promise<void> {
  await transaction.raw(
    `insert into map_sets (project_id, name, width_metres, height_metres, files, document_id, created_at, changed_at)
     select ?, s.name, s.width_metres, s.height_metres, s.files, c.copy, s.created_at, s.changed_at
     from map_sets s left join unnest(?::uuid[], ?::uuid[]) as c(id, copy) on c.id = s.document_id
     where s.project_id = ? and s.deleted_at is null`,
    [to, [...documents.keys()], [...documents.values()], from],
  )
}

async function mapSet(projectId: string, id: string): Promise<MapSet> {
  const row = await one<MapSet>(
    database().raw(`${SELECT} where s.id = ? and s.project_id = ? and s.deleted_at is null`, [id, projectId]),
  )
  if (!row) throw new Problem(404, 'There is no such set of maps. It may have been deleted.')
  return row
}

/** Keeps images of the library as a set; what each holds is judged by its name and its texels. Throws a Problem 404 or 409. */
export async function addMapSet(projectId: string, { name, files }: z.output<typeof newMapSet>): Promise<string> {
  const assets: StoredImage[] = []
  const judged: JudgedFile[] = []
  for (const { sha256, name: fileName } of files) {
    const asset = await findAsset(sha256)
    if (!asset) throw new Problem(404, `The image ${fileName} is not in the library.`)
    assets.push(asset)
    const evidence = evidenceOf(await stretchesOf(sha256))
    judged.push({ name: fileName, evidence, texels: asset.width * asset.height })
  }
  const roles = findRoles(judged)
  const kept = files.map(({ name: fileName }, i) => keptFile(assets[i]!, fileName, roles[i]!))
  const row = await one<{ id: string }>(
    database().raw(
      `insert into map_sets (project_id, name, files)
       select p.id, ?, ? from projects p where p.id = ? and p.deleted_at is null
         and (select count(*) from map_sets s where s.project_id = p.id and s.deleted_at is null) < ${MAX_SETS} returning id`,
      [name, JSON.stringify(kept), projectId],
    ),
  )
  if (!row) throw new Problem(409, `There is no such project any more, or it has ${MAX_SETS} sets of maps already.`)
  return row.id
}

function keptFile(asset: StoredImage, name: string, role: FoundRole | null): MapSetFile {
  const { sha256, width, height, channels, bits, float } = asset
  const { slots = [], transfer = 'raw', by = null, green = null, inMetres } = role ?? {}
  return {
    ...{ sha256, name, width, height, channels, bits, float, by, green },
    transfer: float ? 'raw' : transfer,
    slots: slots.map(({ channel, component, inverted }) => ({ channel, component, inverted })),
    ...(inMetres === undefined ? {} : { inMetres }),
  }
}

/** Rows that are read at once where all of an image is. */
const READ_ROWS = 256
/** Rows of a stretch, and how many stretches of a large image are looked at. */
const [ROWS, STRETCHES] = [16, 8]

/** An image's texels, or evenly spread stretches of its rows where it is large. */
async function stretchesOf(sha256: string): Promise<RasterImage[]> {
  const { asset, rasterSha256 } = await rasterOf(sha256)
  const { width, height, channels, bits, float } = asset
  const rowBytes = (width * channels * (float ? 32 : bits)) / 8
  const isSmall = height <= 2 * ROWS * STRETCHES
  const rows = isSmall ? height : ROWS
  const found: RasterImage[] = []
  for (let s = 0; s < (isSmall ? 1 : STRETCHES); s++) {
    const from = isSmall ? 0 : Math.floor((s * (height - rows)) / (STRETCHES - 1))
    const parts: Uint8Array[] = []
    for await (const part of readBlob(rasterSha256, from * rowBytes, (from + rows) * rowBytes)) parts.push(part)
    const values = valuesOfRaster(new Uint8Array(Buffer.concat(parts)), { bits, float })
    found.push({ width, height: rows, channels, bits, float, values })
  }
  return found
}

/** How even the greys of a set are within the regions of one of its files. Throws a Problem 404, or 409 where no other file is of its size. */
export async function regionsOf(projectId: string, id: string, by: number): Promise<SetRegions> {
  const { files } = await mapSet(projectId, id)
  const ids = files[by]
  if (!ids) throw new Problem(404, 'The set has no such file.')
  const channels: string[] = []
  const planes: PlaneOfImage[] = []
  for (const [i, file] of files.entries()) {
    const greys = file.slots.flatMap(({ channel, component, inverted }, plane) =>
      channel !== null && component === 0 && fixedChannel(channel)?.type === 'grey'
        ? [{ channel, plane, inverted }]
        : [],
    )
    if (i === by || greys.length === 0 || file.width !== ids.width || file.height !== ids.height) continue
    const image = await stretchesOf(file.sha256)
    for (const { channel, plane, inverted } of greys) {
      channels.push(channel)
      planes.push({ image, plane, inverted })
    }
  }
  if (planes.length === 0) throw new Problem(409, `No other file that holds greys is as large as ${ids.name}.`)
  return { channels, regions: regionSpreads(await stretchesOf(ids.sha256), planes) }
}

/**
 * Says what a file of a set holds. What a page said before what it has said already, and that comes later, changes nothing. Throws a
 * Problem 404, or 400 where the file has fewer channels.
 */
export async function setFileRole(
  projectId: string,
  id: string,
  index: number,
  role: FileRole,
  said: Said | null = null,
): Promise<void> {
  const file = (await mapSet(projectId, id)).files[index]
  if (!file) throw new Problem(404, 'The set has no such file.')
  if (role.slots.length > file.channels)
    throw new Problem(400, `${file.name} has ${file.channels} channels and cannot hold ${role.slots.length}.`)
  await database().raw(
    `update map_sets set files = jsonb_set(files, ?::text[], files->?::int || ?::jsonb), changed_at = now()
     where id = ? and not coalesce(files->?::int->'said'->>'page' = ? and (files->?::int->'said'->>'turn')::int > ?, false)`,
    [
      ...[`{${index}}`, index, JSON.stringify({ ...role, by: 'hand', said })],
      ...[id, index, said?.page ?? null, index, said?.turn ?? 0],
    ],
  )
}

export async function changeMapSet(
  projectId: string,
  id: string,
  change: { name?: string; widthMetres?: number; heightMetres?: number; isDeleted?: boolean },
): Promise<void> {
  const { name, widthMetres, heightMetres, isDeleted } = change
  const isSaid = name !== undefined || widthMetres !== undefined || heightMetres !== undefined
  const count = await database()('map_sets')
    .where({ id, project_id: projectId })
    .update({
      ...(name === undefined ? {} : { name }),
      ...(isSaid ? { changed_at: database().fn.now() } : {}),
      ...(widthMetres === undefined ? {} : { width_metres: widthMetres }),
      ...(heightMetres === undefined ? {} : { height_metres: heightMetres }),
      ...(isDeleted === undefined ? {} : { deleted_at: isDeleted ? database().fn.now() : null }),
    })
  if (count === 0) throw new Problem(404, 'There is no such set of maps.')
}

/** What is to be made of a set. */
type Wanted = Parameters<typeof enqueueBake>[1]

/** Asks for the maps of sets, in the order given: of all, or, where one cannot be converted, of none. Throws a Problem. */
export async function convertMapSets(
  projectId: string,
  ids: readonly string[],
  wanted: Omit<Wanted, 'width'> & { width: number | null },
): Promise<void> {
  const sets = await Promise.all(ids.map((id) => mapSet(projectId, id)))
  sets.forEach(checkNoModel)
  const documents = await Promise.all(sets.map(documentOf))
  const packings = sets.map(({ files }) => packingForChannels(wanted.packing, heldBy(files)))
  for (const [i, set] of sets.entries()) {
    const document = await documentFor(projectId, set, documents[i]!)
    const width = wanted.width ?? largestOf(set).width
    await enqueueBake(document, { ...wanted, packing: packings[i]!, width, checks: true })
  }
}

/**
 * Asks for maps of a set in place of the files of another: each takes name, size, format, blocks, mips and what its channels hold from the
 * file that it replaces. Gives in words which files are left. Throws a Problem.
 */
export async function replaceFiles(projectId: string, id: string, target: string): Promise<string[]> {
  const [set, old] = await Promise.all([mapSet(projectId, id), mapSet(projectId, target)])
  checkNoModel(set)
  const whole = await documentOf(set)
  const files: FileToReplace[] = []
  for (const { name, sha256, width, height, channels, bits, transfer, slots } of old.files) {
    const form = formOrProblem(Buffer.from(await wholeBlob(sha256)), { bits })
    const means = meansOf(evidenceOf(await stretchesOf(sha256)))
    files.push({ name, width, height, channels, form, transfer, slots, means })
  }
  const { replacements, left } = replacing(files, heldBy(set.files), `In place of ${old.name}`)
  const [largest] = replacements
  if (!largest) throw new Problem(409, `None of the files of ${old.name} holds anything that ${set.name} has.`)
  // One material stands for the set, and has one shape.
  const isAlike = (one: Replacement): boolean => one.width * largest.height === largest.width * one.height
  const unlike = replacements.filter((one) => !isAlike(one)).flatMap(({ packing }) => packing.files)
  const fitting: MaterialDocument = {
    ...whole,
    domain: { kind: 'tile', metres: [set.widthMetres, (set.widthMetres * largest.height) / largest.width] },
  }
  const document = await documentFor(projectId, set, fitting)
  const together = randomUUID()
  for (const { packing, width } of replacements.filter(isAlike)) {
    const replaced = packing.files.map(({ name }) => ({
      name: name!,
      sha256: old.files.find((file) => file.name === name)!.sha256,
    }))
    const request = { packing, width, dither: false, sharpen: 0, checks: true, replaced, together } as const
    await enqueueBake(document, request)
  }
  return [...left, ...unlike.map(({ name }) => ({ name: name!, why: 'it is of another shape than the largest' }))].map(
    ({ name, why }) => `${name}: ${why}`,
  )
}

/** Throws a Problem 409 where a set cannot be converted without a model. */
function checkNoModel({ name, files }: MapSet): void {
  if (needsModel(files))
    throw new Problem(
      409,
      `${name} has normals in the space of a model. Open it as a material and put that on the part, or say that the file is not used.`,
    )
}

/** Puts a set among the project's materials, as one whose cells read its files. Gives its id. */
export async function openAsMaterial(projectId: string, id: string): Promise<string> {
  const set = await mapSet(projectId, id)
  const exact = await documentOf(set)
  const { width, height } = largestOf(set)
  // Maps of an odd shape are delivered texel for texel; to be built on, a tile has whole rows at every size.
  const metres: [number, number] = [set.widthMetres, set.widthMetres * simpleRatio(width, height)]
  if (exact.domain.kind === 'tile' && metres[1] !== exact.domain.metres[1])
    return addDocument(projectId, { ...exact, domain: { kind: 'tile', metres } })
  const document = await documentFor(projectId, set, exact)
  await database()('documents').where({ id: document }).update({ listed: true })
  await enqueue('picture', document, 0, {})
  return document
}

/** Channels that these files lead to. */
const heldBy = (files: MapSet['files']): Set<string> =>
  new Set(files.flatMap((file) => [...channelsMadeOf(file, files)]))

const largestOf = ({ files }: MapSet): MapSetFile =>
  files.filter(({ slots }) => slots.length > 0).reduce((a, b) => (b.width * b.height > a.width * a.height ? b : a))

/** A set as a material. Throws a Problem 409 that says what of its roles cannot be. */
async function documentOf(set: MapSet): Promise<MaterialDocument> {
  const files = set.files.filter(({ slots }) => slots.some(({ channel }) => channel !== null))
  if (files.length === 0) throw new Problem(409, `${set.name}: say of at least one file what it holds.`)
  const [clash] = setClashes(files)
  if (clash)
    throw new Problem(409, `${set.name}: ${clash.channel} is in ${clash.files.join(' and ')}. Take it out of one.`)
  const { width, height } = largestOf(set)
  const named = files.map(async (file) => {
    const { sha256, name, transfer, slots } = file
    const plane = slots.findIndex(({ channel }) => channel === 'height')
    const reachMetres = file.float && file.inMetres && plane >= 0 ? await reachOf(sha256, plane) : undefined
    return { image: `sha256:${sha256}`, title: name, transfer, slots, reachMetres }
  })
  return documentOfSet(await Promise.all(named), {
    ...{ name: set.name, metres: [set.widthMetres, (set.widthMetres * height) / width] },
    ...{ workflow: workflowOf(files), of: needsModel(files) ? 'part' : 'tile', heightMetres: set.heightMetres },
  })
}

/** How far a plane of floats goes from 0 at most. */
async function reachOf(sha256: string, plane: number): Promise<number> {
  const { asset, rasterSha256 } = await rasterOf(sha256)
  const { width, height, channels } = asset
  const rowBytes = width * channels * 4
  let most = 0
  for (let row = 0; row < height; row += READ_ROWS) {
    const parts: Uint8Array[] = []
    const to = Math.min(height, row + READ_ROWS)
    for await (const part of readBlob(rasterSha256, row * rowBytes, to * rowBytes)) parts.push(part)
    const values = valuesOfRaster(new Uint8Array(Buffer.concat(parts)), asset)
    for (let i = plane; i < values.length; i += channels) most = Math.max(most, Math.abs(values[i]!))
  }
  return most
}

/** The material that stands for a set: the one it has where that is still the same, else a new one that is not listed. */
async function documentFor(projectId: string, set: MapSet, document: MaterialDocument): Promise<string> {
  if (set.documentId !== null) {
    const now = await openDocument(set.documentId).catch((error: unknown) => {
      if (error instanceof Problem || error instanceof GristError) return null
      throw error
    })
    if (now && isDeepStrictEqual(now.document, document)) return set.documentId
  }
  return database().transaction(async (transaction) => {
    const id = await createDocument(transaction, projectId, document)
    await transaction('documents').where({ id }).update({ listed: false })
    await transaction('map_sets').where({ id: set.id }).update({ document_id: id })
    return id
  })
}
