import { z } from 'zod'
import { rasterBytes } from '#core/field/raster'
import { deliveredRaster } from '../server/deliveries/delivery-files.server'
import { answeringJson, checked, idFrom, wholeNumber } from '../server/http/problem.server'
import type { Route } from './+types/delivery-raster'

/** A delivered file decoded, at mip level ?mip; X-Raster tells its shape. */
export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const index = checked(wholeNumber, params.index)
    const mip = checked(z.coerce.number().int().min(0).max(16), new URL(request.url).searchParams.get('mip') ?? '0')
    const image = await deliveredRaster(idFrom(params.deliveryId), index, mip)
    const { width, height, channels, bits, float } = image
    return new Response(new Uint8Array(rasterBytes(image)), {
      headers: {
        'Content-Type': 'application/octet-stream',
        'X-Raster': JSON.stringify({ width, height, channels, bits, float }),
        'Cache-Control': 'private, no-transform, max-age=31536000, immutable',
      },
    })
  })
