import { answeringJson, idFrom } from '../server/http/problem.server'
import { modelZip } from '../server/models/model-deliveries.server'
import type { Route } from './+types/model-zip'

export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(() => modelZip(request, idFrom(params.deliveryId)))
