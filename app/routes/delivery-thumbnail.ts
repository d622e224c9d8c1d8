import { thumbnailOf } from '#runtime/node/read-image'
import { deliveredFile } from '../server/deliveries/delivery-files.server'
import { answeringJson, checked, idFrom, wholeNumber } from '../server/http/problem.server'
import type { Route } from './+types/delivery-thumbnail'

/** A small picture of a delivered file, decoded from its bytes. */
export const loader = ({ params }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const { file, bytes } = await deliveredFile(idFrom(params.deliveryId), checked(wholeNumber, params.index))
    return new Response(new Uint8Array(await thumbnailOf(bytes, file.name)), {
      headers: { 'Content-Type': 'image/png', 'Cache-Control': 'private, max-age=31536000, immutable' },
    })
  })
