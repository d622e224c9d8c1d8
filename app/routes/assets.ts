import { z } from 'zod'
import { LIMITS } from '#core/limits'
import { importImage } from '../server/assets.server'
import { Problem, answeringJson, checked } from '../server/problem.server'
import type { Route } from './+types/assets'

const hash = z.string().regex(/^[0-9a-f]{64}$/, 'a SHA-256 in hex')

/** Takes an image in: its bytes are the body, its name is in the address, its SHA-256 in X-Content-SHA256. */
export const action = ({ request }: Route.ActionArgs) =>
  answeringJson(async () => {
    const name = checked(z.string().min(1).max(LIMITS.name), new URL(request.url).searchParams.get('name'))
    const expected = checked(hash, request.headers.get('X-Content-SHA256'))
    if (Number(request.headers.get('Content-Length') ?? 0) > LIMITS.image.bytes)
      throw new Problem(413, `Expected at most ${LIMITS.image.bytes >> 20} MB.`)
    if (!request.body) throw new Problem(400, 'The file is empty.')
    return Response.json(await importImage(request.body as unknown as AsyncIterable<Uint8Array>, name, expected))
  })
