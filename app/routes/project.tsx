import { redirect } from 'react-router'
import { z } from 'zod'
import { GristError } from '#core/errors'
import { LIMITS } from '#core/limits'
import { ProjectView } from '../features/projects/project-view'
import { listShelf, renameAsset, setAssetDeleted } from '../server/assets/assets.server'
import { readForm } from '../server/http/body.server'
import { listDeliveries, repeatDelivery } from '../server/deliveries/deliveries.server'
import { askForMissingPictures } from '../server/documents/pictures.server'
import { Problem, answering, checked, hashFrom, idFrom } from '../server/http/problem.server'
import {
  addDocument,
  duplicateDocument,
  renameDocument,
  setDocumentDeleted,
  setTags,
} from '../server/projects/materials.server'
import { valuesOf } from '../server/projects/values.server'
import { listStarts, materialFrom, materialOfImage } from '../server/projects/starts.server'
import { openProject } from '../server/projects/projects.server'
import { listModels, setModelDeleted } from '../server/models/models.server'
import { packingsOf } from '../server/packings/packings.server'
import { enqueueBakes, listRuns } from '../server/runs/runs.server'
import { TopBar } from '../ui/top-bar'
import type { Route } from './+types/project'

export const meta: Route.MetaFunction = ({ data }) => [{ title: `${data?.project.name ?? 'Project'} · Amber Grist` }]

export const loader = ({ params }: Route.LoaderArgs) =>
  answering(async () => {
    const id = idFrom(params.projectId)
    const [project, deliveries, runs, assets, starts, packings, values, models] = await Promise.all([
      openProject(id),
      listDeliveries({ projectId: id }),
      listRuns({ projectId: id, limit: 30 }),
      listShelf(id),
      listStarts(),
      packingsOf(id),
      valuesOf(id),
      listModels(id),
      askForMissingPictures(id),
    ])
    return {
      project,
      deliveries,
      runs,
      assets,
      starts,
      packings: packings.map(({ packing: { name, title } }) => ({ name, title })),
      values,
      models,
      now: Date.now(),
    }
  })

const request = z.discriminatedUnion('intent', [
  z.object({
    intent: z.literal('new-document'),
    name: z.string().min(1, 'a name').max(LIMITS.name),
    start: z.string().default('plain'),
  }),
  z.object({
    intent: z.literal('rename-document'),
    document: z.string(),
    name: z.string().trim().min(1, 'a name').max(LIMITS.name),
  }),
  z.object({ intent: z.literal('duplicate-document'), document: z.string() }),
  z.object({ intent: z.literal('delete-document'), document: z.string() }),
  z.object({ intent: z.literal('undelete-document'), document: z.string() }),
  z.object({ intent: z.literal('tag-document'), document: z.string(), tags: z.string().max(1000) }),
  z.object({
    intent: z.literal('make-maps'),
    documents: z.string().min(1, 'a material').max(40_000),
    packing: z.string().max(LIMITS.name),
    width: z.coerce.number().int().min(1).max(16384),
    dither: z.enum(['yes', 'no']),
  }),
  z.object({ intent: z.literal('make-again'), delivery: z.string() }),
  z.object({ intent: z.literal('delete-model'), model: z.string() }),
  z.object({ intent: z.literal('undelete-model'), model: z.string() }),
  z.object({
    intent: z.literal('rename-image'),
    image: z.string(),
    name: z.string().trim().min(1, 'a name').max(LIMITS.name),
  }),
  z.object({ intent: z.literal('material-of-image'), image: z.string(), as: z.enum(['material', 'strands']) }),
  z.object({ intent: z.literal('delete-image'), image: z.string() }),
  z.object({ intent: z.literal('undelete-image'), image: z.string() }),
])

export const action = ({ request: http, params }: Route.ActionArgs) =>
  answering(async () => {
    const project = idFrom(params.projectId)
    const asked = checked(request, await readForm(http))
    switch (asked.intent) {
      case 'new-document':
        return redirect(`/documents/${await addDocument(project, await materialFrom(asked.start, asked.name))}`)
      case 'rename-document':
        await renameDocument(idFrom(asked.document), asked.name)
        return {}
      case 'duplicate-document':
        await duplicateDocument(idFrom(asked.document))
        return {}
      case 'delete-document':
      case 'undelete-document':
        await setDocumentDeleted(idFrom(asked.document), asked.intent === 'delete-document')
        return {}
      case 'tag-document':
        await setTags(idFrom(asked.document), asked.tags)
        return {}
      case 'make-maps': {
        const found = (await packingsOf(project)).find(({ packing }) => packing.name === asked.packing)
        if (!found) throw new Problem(404, 'There is no such packing. It may have been deleted.')
        const { packing } = found
        const request = { packing, width: asked.width, dither: asked.dither === 'yes', sharpen: 0 }
        try {
          await enqueueBakes(project, asked.documents.split(',').map(idFrom), request)
        } catch (error) {
          // A size that one of them cannot have is no reason to leave the page.
          if (error instanceof GristError) return { problem: error.message }
          throw error
        }
        return {}
      }
      case 'make-again':
        await repeatDelivery(idFrom(asked.delivery))
        return {}
      case 'delete-model':
      case 'undelete-model':
        await setModelDeleted(idFrom(asked.model), asked.intent === 'delete-model')
        return {}
      case 'material-of-image':
        return redirect(
          `/documents/${await addDocument(project, await materialOfImage(hashFrom(asked.image), asked.as))}`,
        )
      case 'rename-image':
        await renameAsset(asked.image, asked.name)
        return {}
      case 'delete-image':
      case 'undelete-image':
        await setAssetDeleted(asked.image, asked.intent === 'delete-image')
        return {}
    }
  })

export default function Project({ loaderData }: Route.ComponentProps) {
  return (
    <div className="flex h-screen flex-col">
      <TopBar place={[{ name: 'Projects', to: '/' }, { name: loaderData.project.name }]} />
      <main className="min-h-0 flex-1 overflow-auto">
        <ProjectView {...loaderData} />
      </main>
    </div>
  )
}
