import { zipResponse } from '../server/deliveries/deliveries.server'
import { answeringJson, idFrom } from '../server/http/problem.server'
import type { Route } from './+types/delivery-zip'

export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(() => zipResponse(request, idFrom(params.deliveryId)))
