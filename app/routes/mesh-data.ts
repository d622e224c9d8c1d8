import { z } from 'zod'
import { meshDataFile } from '../server/models/mesh-data-file.server'
import {
  meshDataPicture,
  meshDataRecord,
  meshDataResponse,
  meshDataSwatch,
  missedPicture,
} from '../server/models/mesh-data.server'
import { answeringJson, checked, idFrom } from '../server/http/problem.server'
import type { Route } from './+types/mesh-data'

const place = z.object({
  part: z.coerce.number().int().min(0).max(1e6),
  kind: z.string().max(64),
  udim: z.coerce.number().int().min(1001).max(9999),
})
/** swatch, picture and missed: PNG for eyes; file: EXR or PNG with all that was made; record: what it was made from; raster: its texels. */
const what = z.enum(['swatch', 'picture', 'missed', 'file', 'record', 'raster'])

/** Mesh data of a model; addresses carry a key that changes with what they give. */
export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const id = idFrom(params.modelId)
    const at = checked(place, params)
    switch (checked(what, params.what)) {
      case 'swatch':
        return png(await meshDataSwatch(id, at))
      case 'picture':
        return png(await meshDataPicture(id, at))
      case 'missed':
        return png(await missedPicture(id, at))
      case 'record':
        return Response.json(await meshDataRecord(id, at))
      case 'raster':
        return meshDataResponse(request, id, at)
      case 'file':
        return meshDataFile(id, at)
    }
  })

const png = (bytes: Buffer): Response =>
  new Response(new Uint8Array(bytes), {
    headers: { 'Content-Type': 'image/png', 'Cache-Control': 'private, max-age=31536000, immutable' },
  })
