import { rasterOf } from '../server/assets/assets.server'
import { blobResponse } from '../server/storage/blobs.server'
import { answeringJson, hashFrom } from '../server/http/problem.server'
import type { Route } from './+types/asset-raster'

/** Decoded texels; X-Raster tells their shape. */
export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const { asset, rasterSha256 } = await rasterOf(hashFrom(params.sha256))
    const { width, height, channels, bits, float } = asset
    return blobResponse(request, rasterSha256, {
      'Content-Type': 'application/octet-stream',
      'X-Raster': JSON.stringify({ width, height, channels, bits, float }),
      'Cache-Control': 'private, no-transform, max-age=31536000, immutable',
    })
  })
