import { findDelivery } from '../server/deliveries/deliveries.server'
import { answeringJson, idFrom } from '../server/http/problem.server'
import type { Route } from './+types/delivery-record'

export const loader = ({ params }: Route.LoaderArgs) =>
  answeringJson(async () => Response.json((await findDelivery(idFrom(params.deliveryId))).record))
