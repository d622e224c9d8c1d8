import { answeringJson, checked, idFrom, wholeNumber } from '../server/http/problem.server'
import { regionsOf } from '../server/map-sets/map-sets.server'
import type { Route } from './+types/map-set-regions'

/** How even a set is within the regions of its file ?by. */
export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const by = checked(wholeNumber, new URL(request.url).searchParams.get('by'))
    return Response.json(await regionsOf(idFrom(params.projectId), idFrom(params.setId), by))
  })
