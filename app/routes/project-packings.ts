import { z } from 'zod'
import { readJson } from '../server/http/body.server'
import { deletePacking, savePacking, saveSchema, packingsOf } from '../server/packings/packings.server'
import { answeringJson, checked, idFrom } from '../server/http/problem.server'
import type { Route } from './+types/project-packings'

/** The packings a project may use. */
export const loader = ({ params }: Route.LoaderArgs) =>
  answeringJson(async () => Response.json(await packingsOf(idFrom(params.projectId))))

/** PUT keeps one, DELETE takes one away by name. */
export const action = ({ request, params }: Route.ActionArgs) =>
  answeringJson(async () => {
    const project = idFrom(params.projectId)
    const json = await readJson(request)
    if (request.method === 'DELETE') {
      await deletePacking(project, checked(z.strictObject({ name: z.string() }), json).name)
      return Response.json({})
    }
    return Response.json(await savePacking(project, checked(saveSchema, json)))
  })
