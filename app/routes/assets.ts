import { LIMITS } from '#core/limits'
import type { Asset } from '../contracts/asset'
import { bringIntoProject, importFile } from '../server/assets/assets.server'
import { answeringJson, idFrom } from '../server/http/problem.server'
import { receivedFile } from '../server/http/received-file.server'
import type { Route } from './+types/assets'

/** Imports an image: its bytes are the body, its name and the project that it is brought into are in the address, its SHA-256 in X-Content-SHA256. */
export const action = ({ request }: Route.ActionArgs) =>
  answeringJson(async () => {
    const { searchParams } = new URL(request.url)
    const project = searchParams.has('project') ? idFrom(searchParams.get('project')!) : null
    const asset = await receivedFile(request, LIMITS.image.bytes, importFile)
    if (project !== null) await bringIntoProject(asset.sha256, project)
    return Response.json({ ...asset, here: project !== null } satisfies Asset)
  })
