import { thumbnail } from '../server/assets/assets.server'
import { answeringJson, hashFrom } from '../server/http/problem.server'
import type { Route } from './+types/asset-thumbnail'

export const loader = ({ params }: Route.LoaderArgs) =>
  answeringJson(
    async () =>
      new Response(new Uint8Array(await thumbnail(hashFrom(params.sha256))), {
        headers: { 'Content-Type': 'image/png', 'Cache-Control': 'private, max-age=31536000, immutable' },
      }),
  )
