import { answeringJson, hashFrom } from '../server/http/problem.server'
import { meshByHash } from '../server/models/models.server'
import type { Route } from './+types/mesh'

/** A mesh that is kept, by its content, for engines in pages. */
export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(() => meshByHash(request, hashFrom(params.sha256)))
