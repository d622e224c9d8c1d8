import { readJson } from '../server/http/body.server'
import { listStates, nameState, stateSchema } from '../server/documents/states.server'
import { answeringJson, checked, idFrom } from '../server/http/problem.server'
import type { Route } from './+types/document-states'

/** Named states and recent revisions, newest first. */
export const loader = ({ params }: Route.LoaderArgs) =>
  answeringJson(async () => Response.json(await listStates(idFrom(params.documentId))))

/** Names a revision, or takes its name away. Answers with the list. */
export const action = ({ request, params }: Route.ActionArgs) =>
  answeringJson(async () => {
    const id = idFrom(params.documentId)
    await nameState(id, checked(stateSchema, await readJson(request)))
    return Response.json(await listStates(id))
  })
