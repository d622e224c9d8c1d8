import { Outlet } from 'react-router'
import { MaterialProvider } from '../session/material-provider'
import { listAssets } from '../server/assets/assets.server'
import { openDocument } from '../server/documents/documents.server'
import { answering, idFrom } from '../server/http/problem.server'
import { valuesOf } from '../server/projects/values.server'
import { openProject } from '../server/projects/projects.server'
import type { Route } from './+types/document'

export const loader = ({ params }: Route.LoaderArgs) =>
  answering(async () => {
    const opened = await openDocument(idFrom(params.documentId))
    const { id, name } = await openProject(opened.projectId)
    const [assets, values] = await Promise.all([listAssets(id), valuesOf(id)])
    return { opened, project: { id, name }, assets, values }
  })

/** The page keeps its own state from here on; loading anew would only repeat what it knows. */
export const shouldRevalidate = ({
  currentParams,
  nextParams,
}: {
  currentParams: Route.LoaderArgs['params']
  nextParams: Route.LoaderArgs['params']
}) => currentParams.documentId !== nextParams.documentId

/** What the screens of a material are told. */
export interface DocumentOutlet {
  readonly project: { id: string; name: string }
}

/** One open material; its screens share the document, its undo and what the workers have made. */
export default function Document({ loaderData, params }: Route.ComponentProps) {
  const { opened, project, assets, values } = loaderData
  return (
    <MaterialProvider key={params.documentId} opened={opened} assets={assets} values={values} project={project.id}>
      <Outlet context={{ project } satisfies DocumentOutlet} />
    </MaterialProvider>
  )
}
