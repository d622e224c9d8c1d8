import { redirect } from 'react-router'
import { z } from 'zod'
import { LIMITS } from '#core/limits'
import { ProjectCards } from '../features/projects/project-cards'
import { readForm } from '../server/http/body.server'
import { answering, checked, idFrom } from '../server/http/problem.server'
import {
  createProject,
  deleteProject,
  duplicateProject,
  listProjects,
  openProject,
  renameProject,
  undeleteProject,
} from '../server/projects/projects.server'
import { listStarts, materialFrom } from '../server/projects/starts.server'
import { TopBar } from '../ui/top-bar'
import type { Route } from './+types/projects'

export const meta: Route.MetaFunction = () => [{ title: 'Projects · Amber Grist' }]

export const loader = () =>
  answering(async () => {
    const [projects, starts] = await Promise.all([listProjects(), listStarts()])
    return { projects, starts, now: Date.now() }
  })

const name = z.string().min(1, 'a name').max(LIMITS.name)
const request = z.discriminatedUnion('intent', [
  z.object({ intent: z.literal('create'), name, start: z.string().default('plain') }),
  z.object({ intent: z.literal('rename'), id: z.string(), name }),
  z.object({ intent: z.literal('duplicate'), id: z.string() }),
  z.object({ intent: z.literal('delete'), id: z.string() }),
  z.object({ intent: z.literal('undelete'), id: z.string() }),
])

export const action = ({ request: http }: Route.ActionArgs) =>
  answering(async () => {
    const asked = checked(request, await readForm(http))
    if (asked.intent === 'create') {
      const { documents } = await openProject(await createProject(asked.name, await materialFrom(asked.start)))
      return redirect(`/documents/${documents[0]!.id}`)
    }
    const id = idFrom(asked.id)
    if (asked.intent === 'rename') await renameProject(id, asked.name)
    else if (asked.intent === 'duplicate') return { id: await duplicateProject(id) }
    else if (asked.intent === 'delete') await deleteProject(id)
    else await undeleteProject(id)
    return {}
  })

export default function Projects({ loaderData }: Route.ComponentProps) {
  return (
    <div className="flex h-screen flex-col">
      <TopBar place={[{ name: 'Projects' }]} />
      <main className="min-h-0 flex-1 overflow-auto">
        <ProjectCards {...loaderData} />
      </main>
    </div>
  )
}
