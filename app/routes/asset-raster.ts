import { rasterOf } from '../server/assets.server'
import { answeringJson } from '../server/problem.server'
import type { Route } from './+types/asset-raster'

/** Decoded texels; X-Raster tells their shape. */
export const loader = ({ params }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const { asset, bytes } = await rasterOf(params.sha256)
    const { width, height, channels, bits, float } = asset
    return new Response(new Uint8Array(bytes), {
      headers: {
        'Content-Type': 'application/octet-stream',
        'X-Raster': JSON.stringify({ width, height, channels, bits, float }),
        'Cache-Control': 'private, max-age=31536000, immutable',
      },
    })
  })
