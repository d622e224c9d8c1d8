import { redirect } from 'react-router'
import { z } from 'zod'
import { LIMITS } from '#core/limits'
import { GristError } from '#core/errors'
import { pickedIds } from '#core/picked-ids'
import { bakeSettings, draftOf, optionsFor } from '#core/mesh/bake-settings'
import { broughtInAs } from '#core/mesh/brought-in'
import { layoutChange } from '#core/mesh/layout-change'
import type { MeshCell } from '../contracts/run'
import { meshCell } from '../contracts/run'
import { ModelScreen } from '../screens/model-screen'
import { readJson } from '../server/http/body.server'
import { Problem, answering, checked, idFrom } from '../server/http/problem.server'
import {
  boxMesh,
  layOutAsCame,
  openModel,
  removeCompanion,
  renameModel,
  setBakeSettings,
  shareFiles,
} from '../server/models/models.server'
import { packingsOf } from '../server/packings/packings.server'
import { listAssets } from '../server/assets/assets.server'
import { bringInMeshData } from '../server/models/mesh-data.server'
import { listModelDeliveries } from '../server/models/model-deliveries.server'
import { layerUp, placeMaterial, placeNewMaterial, placedOn } from '../server/placements/placements.server'
import { parsePacking } from '#core/texture/packing'
import { enqueueMesh, listMeshRuns } from '../server/runs/runs.server'
import type { Route } from './+types/model'

export const meta: Route.MetaFunction = ({ data }) => [{ title: `${data?.model.name ?? 'Model'} · Amber Grist` }]

export const loader = ({ params }: Route.LoaderArgs) =>
  answering(async () => {
    const id = idFrom(params.modelId)
    const [model, runs, deliveries] = await Promise.all([openModel(id), listMeshRuns(id, 20), listModelDeliveries(id)])
    const [images, placed, stored] = await Promise.all([
      listAssets(model.project.id),
      placedOn(model),
      packingsOf(model.project.id),
    ])
    // Frames and strands are of tiles.
    const packings = stored.map(({ packing }) => packing).filter(({ frames }) => !frames)
    return { model, runs, images, placed, deliveries, packings, now: Date.now() }
  })

const asked = z.discriminatedUnion('intent', [
  z.strictObject({ intent: z.literal('settings'), settings: bakeSettings.partial() }),
  // By the settings as they are when it arrives: a page sends one thing after the other, and may have older ones.
  z.strictObject({
    intent: z.literal('bake'),
    cells: z.array(meshCell).min(1).max(65536),
    /** Small and rough, to have something at once. */
    draft: z.boolean().default(false),
  }),
  z.strictObject({ intent: z.literal('lay-out'), change: layoutChange }),
  z.strictObject({ intent: z.literal('lay-out-as-came') }),
  z.strictObject({
    intent: z.literal('place'),
    part: z.int().min(0).max(1e6),
    ids: pickedIds.optional(),
    material: z.uuid().nullable(),
  }),
  z.strictObject({ intent: z.literal('place-new'), part: z.int().min(0).max(1e6) }),
  z.strictObject({ intent: z.literal('layer-up'), part: z.int().min(0).max(1e6) }),
  z.strictObject({ intent: z.literal('share'), part: z.int().min(0).max(1e6), with: z.int().min(0).max(1e6) }),
  z.strictObject({
    intent: z.literal('deliver'),
    packing: z.unknown().transform((json) => parsePacking(json)),
    width: z.int().min(16).max(LIMITS.side),
    dither: z.boolean(),
    vertices: z.string().max(64).optional(),
  }),
  z.strictObject({ intent: z.literal('remove'), role: z.enum(['high', 'cage']) }),
  z.strictObject({ intent: z.literal('rename'), name: z.string().trim().min(1, 'a name').max(LIMITS.name) }),
  z.strictObject({
    intent: z.literal('bring-in'),
    ...meshCell.shape,
    udim: z.int().min(1001).max(9999),
    image: z.string().regex(/^[0-9a-f]{64}$/, 'a SHA-256 in hex'),
    meaning: broughtInAs,
  }),
])

/** Bakes cells by the model's settings; of a draft with few texels and rays. */
async function bake(id: string, { cells, draft }: { cells: MeshCell[]; draft: boolean }): Promise<void> {
  const { settings } = await openModel(id)
  await enqueueMesh(id, { do: 'bake', cells, settings: draft ? draftOf(settings) : settings })
}

export const action = ({ request, params }: Route.ActionArgs) =>
  answering(async () => {
    const id = idFrom(params.modelId)
    const wanted = checked(asked, await readJson(request))
    switch (wanted.intent) {
      case 'settings':
        await setBakeSettings(id, wanted.settings)
        return {}
      case 'bake':
        await bake(id, wanted)
        return {}
      case 'lay-out':
        await enqueueMesh(id, { do: 'lay out', change: wanted.change })
        return {}
      case 'place': {
        const { part, ids, material } = wanted
        const { project, data } = await openModel(id)
        await placeMaterial(project.id, { model: id, part, ids }, material)
        // Which texels have which ID is baked: what is missing is made at once.
        const isBaked = !ids || data.some((one) => one.part === part && one.kind === ids.kind)
        if (!isBaked && material !== null) await bake(id, { cells: [{ part, kind: ids.kind }], draft: false })
        return {}
      }
      case 'place-new':
        await placeNewMaterial(await openModel(id), wanted.part)
        return {}
      case 'layer-up': {
        const model = await openModel(id)
        if (wanted.part >= model.summary.parts.length)
          throw new Problem(404, 'There is no such part in this model any more.')
        return redirect(`/documents/${await layerUp(model, wanted.part)}`)
      }
      case 'share': {
        const { parts } = (await openModel(id)).summary
        if (wanted.part >= parts.length || wanted.with >= parts.length)
          throw new Problem(404, 'There is no such part in this model any more.')
        await shareFiles(id, wanted.part, wanted.with)
        return {}
      }
      case 'deliver': {
        const { packing, width, dither, vertices } = wanted
        await enqueueMesh(id, { do: 'deliver', packing, width, dither, ...(vertices ? { vertices } : {}) })
        return {}
      }
      case 'lay-out-as-came':
        await layOutAsCame(id)
        return {}
      case 'remove':
        await removeCompanion(id, wanted.role)
        return {}
      case 'rename':
        await renameModel(id, wanted.name)
        return {}
      case 'bring-in': {
        const { part, kind, udim, image, meaning } = wanted
        const { mesh, summary, settings } = await openModel(id)
        const scale = { options: optionsFor(settings, boxMesh(summary)), box: summary.box }
        try {
          await bringInMeshData(id, mesh, scale, { part, kind, udim }, image, meaning)
        } catch (error) {
          // An image that will not do is no reason to leave the page.
          if (error instanceof GristError) return { problem: error.message }
          throw error
        }
        return {}
      }
    }
  })

export default function Model({ loaderData }: Route.ComponentProps) {
  return <ModelScreen key={loaderData.model.id} {...loaderData} />
}
