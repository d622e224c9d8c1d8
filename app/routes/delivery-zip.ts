import { zipResponse } from '../server/deliveries.server'
import { answeringJson, idFrom } from '../server/problem.server'
import type { Route } from './+types/delivery-zip'

export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(() => zipResponse(request, idFrom(params.deliveryId)))
