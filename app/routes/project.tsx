import { redirect } from 'react-router'
import { z } from 'zod'
import { GristError } from '#core/errors'
import { LIMITS } from '#core/limits'
import { ProjectView } from '../features/projects/project-view'
import { listAssets } from '../server/assets.server'
import { listDeliveries, makeAgain } from '../server/deliveries.server'
import { openDocument } from '../server/documents.server'
import { keepPacking, packingsOf } from '../server/packings.server'
import { Problem, answering, checked, idFrom } from '../server/problem.server'
import { addDocument, emptyMaterial, openProject, setDocumentDeleted } from '../server/projects.server'
import { enqueue, listRuns } from '../server/runs.server'
import { TopBar } from '../ui/top-bar'
import type { Route } from './+types/project'

export const meta: Route.MetaFunction = ({ data }) => [{ title: `${data?.project.name ?? 'Project'} · Amber Grist` }]

export const loader = ({ params }: Route.LoaderArgs) =>
  answering(async () => {
    const id = idFrom(params.projectId)
    const [project, deliveries, runs, assets, packings] = await Promise.all([
      openProject(id),
      listDeliveries(id),
      listRuns({ projectId: id, limit: 30 }),
      listAssets(),
      packingsOf(id),
    ])
    return {
      project,
      deliveries,
      runs,
      assets,
      packings: packings.map(({ name, title, summary, files, everyChannel }) => ({
        name,
        title,
        summary,
        files,
        everyChannel,
      })),
      now: Date.now(),
    }
  })

const request = z.discriminatedUnion('intent', [
  z.object({ intent: z.literal('new-document'), name: z.string().min(1, 'a name').max(LIMITS.name) }),
  z.object({ intent: z.literal('duplicate-document'), document: z.string() }),
  z.object({ intent: z.literal('delete-document'), document: z.string() }),
  z.object({ intent: z.literal('undelete-document'), document: z.string() }),
  z.object({
    intent: z.literal('bake'),
    document: z.string(),
    packing: z.string(),
    width: z.coerce.number().int().min(1).max(LIMITS.side),
    dither: z.string().optional(),
  }),
  z.object({ intent: z.literal('add-packing'), json: z.string().max(1 << 20) }),
  z.object({ intent: z.literal('make-again'), delivery: z.string() }),
])

export const action = ({ request: http, params }: Route.ActionArgs) =>
  answering(async () => {
    const project = idFrom(params.projectId)
    const asked = checked(request, Object.fromEntries(await http.formData()))
    switch (asked.intent) {
      case 'new-document':
        return redirect(`/documents/${await addDocument(project, emptyMaterial(asked.name))}`)
      case 'duplicate-document': {
        const { document } = await openDocument(idFrom(asked.document))
        await addDocument(project, { ...document, name: `${document.name.slice(0, LIMITS.name - 7)}, copy` })
        return {}
      }
      case 'delete-document':
      case 'undelete-document':
        await setDocumentDeleted(idFrom(asked.document), asked.intent === 'delete-document')
        return {}
      case 'bake': {
        const packing = (await packingsOf(project)).find(({ name }) => name === asked.packing)
        if (!packing) throw new Problem(400, `There is no packing "${asked.packing}".`)
        const { id, head } = await openDocument(idFrom(asked.document))
        await enqueue('bake', id, head, { packing, width: asked.width, dither: asked.dither === 'on' })
        return {}
      }
      case 'add-packing':
        try {
          return { packing: (await keepPacking(project, asked.json)).name }
        } catch (error) {
          if (error instanceof Problem || error instanceof GristError) return { problem: error.message }
          throw error
        }
      case 'make-again':
        await makeAgain(idFrom(asked.delivery))
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
