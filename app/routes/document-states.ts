import { listStates, nameState, stateSchema } from '../server/states.server'
import { Problem, answeringJson, checked, idFrom } from '../server/problem.server'
import type { Route } from './+types/document-states'

/** Named states and recent revisions, newest first. */
export const loader = ({ params }: Route.LoaderArgs) =>
  answeringJson(async () => Response.json(await listStates(idFrom(params.documentId))))

/** Names a revision, or takes its name away. Answers with the list. */
export const action = ({ request, params }: Route.ActionArgs) =>
  answeringJson(async () => {
    const id = idFrom(params.documentId)
    const json: unknown = await request.json().catch(() => {
      throw new Problem(400, 'Expected JSON.')
    })
    await nameState(id, checked(stateSchema, json))
    return Response.json(await listStates(id))
  })
