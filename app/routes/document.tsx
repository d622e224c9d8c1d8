import { MaterialScreen } from '../features/material/material-screen'
import { listAssets } from '../server/assets.server'
import { openDocument } from '../server/documents.server'
import { answering, idFrom } from '../server/problem.server'
import { openProject } from '../server/projects.server'
import type { Route } from './+types/document'

export const meta: Route.MetaFunction = ({ data }) => [
  { title: `${data?.opened.document.name ?? 'Material'} · Amber Grist` },
]

export const loader = ({ params }: Route.LoaderArgs) =>
  answering(async () => {
    const opened = await openDocument(idFrom(params.documentId))
    const { id, name } = await openProject(opened.projectId)
    return { opened, project: { id, name }, assets: await listAssets() }
  })

/** The page keeps its own state from here on; loading anew would only repeat what it knows. */
export const shouldRevalidate = () => false

export default function Document({ loaderData, params }: Route.ComponentProps) {
  const { opened, project, assets } = loaderData
  return <MaterialScreen key={params.documentId} opened={opened} project={project} assets={assets} />
}
