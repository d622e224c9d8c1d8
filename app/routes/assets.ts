import { z } from 'zod'
import { LIMITS } from '#core/limits'
import type { Asset } from '../contracts/asset'
import { bringIntoProject, importFile } from '../server/assets/assets.server'
import { bodyParts } from '../server/http/body.server'
import { CLIENT_HEADER } from '../server/http/client'
import { Problem, answeringJson, checked, idFrom } from '../server/http/problem.server'
import { spooled } from '../server/storage/uploads.server'
import type { Route } from './+types/assets'

const hash = z.string().regex(/^[0-9a-f]{64}$/, 'a SHA-256 in hex')
const nameOf = z.string().min(1).max(LIMITS.name)

/** Imports an image: its bytes are the body, its name and the project that it is brought into are in the address, its SHA-256 in X-Content-SHA256. */
export const action = ({ request }: Route.ActionArgs) =>
  answeringJson(async () => {
    const { searchParams } = new URL(request.url)
    const name = checked(nameOf, searchParams.get('name'))
    const project = searchParams.has('project') ? idFrom(searchParams.get('project')!) : null
    if (name.includes('\0') || !name.isWellFormed()) throw new Problem(400, 'The name of the file cannot be kept.')
    const expected = checked(hash, request.headers.get('X-Content-SHA256'))
    const client = request.headers.get(CLIENT_HEADER) ?? ''
    const asset = await spooled(client, bodyParts(request, LIMITS.image.bytes), expected, async (file) => {
      if (file.bytes === 0) throw new Problem(400, 'The file is empty.')
      return importFile(file, name)
    })
    if (project !== null) await bringIntoProject(asset.sha256, project)
    return Response.json({ ...asset, here: project !== null } satisfies Asset)
  })
