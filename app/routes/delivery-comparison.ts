import { z } from 'zod'
import { compareDeliveries, compareMap } from '../server/deliveries/delivery-files.server'
import { answeringJson, checked, idFrom } from '../server/http/problem.server'
import type { Route } from './+types/delivery-comparison'

const asUrl = (png: Uint8Array): string => `data:image/png;base64,${Buffer.from(png).toString('base64')}`

/** The maps two deliveries share; with ?map, and ?gain where it is not to fit by itself, how far that one is apart. */
export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const [after, before] = [idFrom(params.deliveryId), idFrom(params.otherId)]
    const { searchParams } = new URL(request.url)
    const map = searchParams.get('map')
    if (map === null) return Response.json(await compareDeliveries(before, after))
    const gain = checked(z.coerce.number().min(1).max(4096).nullable(), searchParams.get('gain'))
    const { pictures, ...figures } = await compareMap(before, after, map, gain)
    const { difference, before: was, after: is } = pictures
    return Response.json({
      ...figures,
      pictures: { difference: asUrl(difference), before: asUrl(was), after: asUrl(is) },
    })
  })
