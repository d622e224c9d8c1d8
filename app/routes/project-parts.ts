import { z } from 'zod'
import { partPlace } from '../contracts/parts'
import { readJson } from '../server/http/body.server'
import { answeringJson, checked, idFrom } from '../server/http/problem.server'
import { placeMaterial, projectParts } from '../server/placements/placements.server'
import type { Route } from './+types/project-parts'

/** Parts of a project's models with the materials that lie on them. */
export const loader = ({ params }: Route.LoaderArgs) =>
  answeringJson(async () => Response.json(await projectParts(idFrom(params.projectId))))

const placing = partPlace.extend({ material: z.uuid().nullable() })

/** PUT puts a material on a part, or takes off what lies there; answers with all parts. */
export const action = ({ request, params }: Route.ActionArgs) =>
  answeringJson(async () => {
    const project = idFrom(params.projectId)
    const { material, ...place } = checked(placing, await readJson(request))
    await placeMaterial(project, place, material)
    return Response.json(await projectParts(project))
  })
