import { LIMITS } from '#core/limits'
import { bodyParts } from '../server/http/body.server'
import { CLIENT_HEADER } from '../server/http/client'
import { Problem, answeringJson, idFrom } from '../server/http/problem.server'
import { expectedHash } from '../server/http/received-file.server'
import { importMaterials, projectFile } from '../server/projects/material-file.server'
import { spooled } from '../server/storage/uploads.server'
import type { Route } from './+types/project-file'

/** A ZIP may be as large as a few images. */
const MAX_BYTES = 4 * LIMITS.image.bytes

/** All materials of a project with their images, to take along. */
export const loader = ({ params }: Route.LoaderArgs) => answeringJson(() => projectFile(idFrom(params.projectId)))

/** Brings materials in: the bytes of such a file are the body, its SHA-256 is in X-Content-SHA256. */
export const action = ({ request, params }: Route.ActionArgs) =>
  answeringJson(async () => {
    const project = idFrom(params.projectId)
    const client = request.headers.get(CLIENT_HEADER) ?? ''
    const documents = await spooled(client, bodyParts(request, MAX_BYTES), expectedHash(request), async (file) => {
      if (file.bytes === 0) throw new Problem(400, 'The file is empty.')
      return importMaterials(project, file)
    })
    return Response.json({ documents })
  })
