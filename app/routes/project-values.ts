import { z } from 'zod'
import { readJson } from '../server/http/body.server'
import { answeringJson, checked, idFrom } from '../server/http/problem.server'
import { deleteValue, setValue, valueSchema, valuesOf } from '../server/projects/values.server'
import type { Route } from './+types/project-values'

/** Colours and numbers of a project. */
export const loader = ({ params }: Route.LoaderArgs) =>
  answeringJson(async () => Response.json(await valuesOf(idFrom(params.projectId))))

/** PUT sets one, DELETE takes one away by name; both answer with all. */
export const action = ({ request, params }: Route.ActionArgs) =>
  answeringJson(async () => {
    const project = idFrom(params.projectId)
    const json = await readJson(request)
    return Response.json(
      request.method === 'DELETE'
        ? await deleteValue(project, checked(z.strictObject({ name: z.string() }), json).name)
        : await setValue(project, checked(valueSchema, json)),
    )
  })
