import { z } from 'zod'
import { LIMITS } from '#core/limits'
import type { Spooled } from '../storage/uploads.server'
import { spooled } from '../storage/uploads.server'
import { bodyParts } from './body.server'
import { CLIENT_HEADER } from './client'
import { Problem, checked } from './problem.server'

const hash = z.string().regex(/^[0-9a-f]{64}$/, 'a SHA-256 in hex')
const nameOf = z.string().min(1).max(LIMITS.name)

/** The SHA-256 that a request says its body has. Throws a Problem 400. */
export const expectedHash = (request: Request): string => checked(hash, request.headers.get('X-Content-SHA256'))

/** The name of a file in a request's address. Throws a Problem 400. */
export function nameInAddress(request: Request): string {
  const name = checked(nameOf, new URL(request.url).searchParams.get('name'))
  if (name.includes('\0') || !name.isWellFormed()) throw new Problem(400, 'The name of the file cannot be kept.')
  return name
}

/** Receives a request's body as a file on disk and hands it to `work` with its name. Throws Problems 400, 413, 422 and 429. */
export async function receivedFile<T>(
  request: Request,
  maxBytes: number,
  work: (file: Spooled, name: string) => Promise<T>,
): Promise<T> {
  const name = nameInAddress(request)
  const client = request.headers.get(CLIENT_HEADER) ?? ''
  return spooled(client, bodyParts(request, maxBytes), expectedHash(request), async (file) => {
    if (file.bytes === 0) throw new Problem(400, 'The file is empty.')
    return work(file, name)
  })
}
