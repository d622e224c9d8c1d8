import { findAsset } from '../server/assets/assets.server'
import { blobResponse } from '../server/storage/blobs.server'
import { Problem, answeringJson, hashFrom } from '../server/http/problem.server'
import type { Route } from './+types/asset-file'

/** The file as it came in. */
export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const asset = await findAsset(hashFrom(params.sha256))
    if (!asset) throw new Problem(404, 'There is no such image.')
    return blobResponse(request, asset.sha256, {
      'Content-Type': 'application/octet-stream',
      'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(asset.name)}`,
    })
  })
