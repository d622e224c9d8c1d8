import { answeringJson, hashFrom } from '../server/http/problem.server'
import { meshDataBlob } from '../server/models/mesh-data.server'
import type { Route } from './+types/mesh-data-raster'

/** Mesh data by their content, for engines in pages. */
export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(() => meshDataBlob(request, hashFrom(params.sha256)))
