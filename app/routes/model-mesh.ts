import { z } from 'zod'
import { answeringJson, checked, idFrom } from '../server/http/problem.server'
import { meshResponse, receivedModel, replaceMesh } from '../server/models/models.server'
import type { Route } from './+types/model-mesh'

const role = z.enum(['low', 'high', 'cage'])
const roleOf = (request: Request) => checked(role, new URL(request.url).searchParams.get('role'))

/** One of a model's meshes, as it is kept (core/mesh/packed-mesh.ts). */
export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(() => meshResponse(request, idFrom(params.modelId), roleOf(request)))

/** Gives a model another file for one of its meshes, as project-models.ts does. */
export const action = ({ request, params }: Route.ActionArgs) =>
  answeringJson(async () => {
    const [id, which] = [idFrom(params.modelId), roleOf(request)]
    await receivedModel(request, (file, name) => replaceMesh(id, which, file, name))
    return Response.json({ id })
  })
