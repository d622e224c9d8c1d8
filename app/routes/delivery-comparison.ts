import { z } from 'zod'
import { compareDeliveries, compareMap } from '../server/deliveries/delivery-files.server'
import { answeringJson, checked, idFrom } from '../server/http/problem.server'
import type { Route } from './+types/delivery-comparison'

/** The maps two deliveries share; with ?map and ?gain, how far that one is apart. */
export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const [after, before] = [idFrom(params.deliveryId), idFrom(params.otherId)]
    const { searchParams } = new URL(request.url)
    const map = searchParams.get('map')
    if (map === null) return Response.json(await compareDeliveries(before, after))
    const gain = checked(z.coerce.number().min(1).max(4096), searchParams.get('gain') ?? '8')
    const { picture, ...figures } = await compareMap(before, after, map, gain)
    return Response.json({ ...figures, picture: `data:image/png;base64,${Buffer.from(picture).toString('base64')}` })
  })
