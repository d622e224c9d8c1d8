import { answeringJson, idFrom } from '../server/http/problem.server'
import { addModel, listModels, receivedModel } from '../server/models/models.server'
import type { Route } from './+types/project-models'

/** Models of a project. */
export const loader = ({ params }: Route.LoaderArgs) =>
  answeringJson(async () => Response.json(await listModels(idFrom(params.projectId))))

/** Brings a model in: the bytes of its file are the body, its name is in the address, its SHA-256 in X-Content-SHA256. */
export const action = ({ request, params }: Route.ActionArgs) =>
  answeringJson(async () => {
    const project = idFrom(params.projectId)
    const id = await receivedModel(request, (file, name) => addModel(project, file, name))
    return Response.json({ id })
  })
