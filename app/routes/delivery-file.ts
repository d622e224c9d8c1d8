import { formatNamed } from '#core/texture/format-registry'
import { deliveredFile } from '../server/deliveries/delivery-files.server'
import { answeringJson, checked, idFrom, wholeNumber } from '../server/http/problem.server'
import type { Route } from './+types/delivery-file'

/** One file of a delivery, as it was written. */
export const loader = ({ params }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const index = checked(wholeNumber, params.index)
    const { file, bytes } = await deliveredFile(idFrom(params.deliveryId), index)
    return new Response(new Uint8Array(bytes), {
      headers: {
        'Content-Type': formatNamed(file.format)?.mime ?? 'application/octet-stream',
        'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(file.name)}`,
        'Cache-Control': 'private, no-transform, max-age=31536000, immutable',
      },
    })
  })
