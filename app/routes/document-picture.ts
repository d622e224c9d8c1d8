import { answeringJson, idFrom } from '../server/http/problem.server'
import { pictureOf } from '../server/documents/pictures.server'
import type { Route } from './+types/document-picture'

/** The lit picture; the address carries its revision, so it may be kept. */
export const loader = ({ params }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const png = await pictureOf(idFrom(params.documentId))
    return new Response(new Uint8Array(png), {
      headers: { 'Content-Type': 'image/png', 'Cache-Control': 'private, max-age=31536000, immutable' },
    })
  })
