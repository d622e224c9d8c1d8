import { data } from 'react-router'
import { z } from 'zod'
import { GristError } from '#core/errors'
import { explainIssue } from '#core/document/document'
import { isDatabaseAway } from '../database/database.server'

/** What went wrong with a request, with the HTTP status that says so. */
export class Problem extends Error {
  constructor(
    readonly status: 400 | 404 | 408 | 409 | 413 | 415 | 416 | 422 | 429 | 503 | 507,
    message: string,
  ) {
    super(message)
  }
}

/**
 * What an error means to who asked; null where the fault is ours (500). Codes of the database: PostgreSQL, appendix A
 * (22: the data do not fit their type, 23503: what is named does not exist, 23505: it exists already, 53100: the disk is full).
 */
export function problemOf(error: unknown): Problem | null {
  if (error instanceof Problem) return error
  if (error instanceof GristError) return new Problem(422, error.message)
  if (isDatabaseAway(error))
    return new Problem(503, 'The database cannot be reached right now. This goes on by itself when it is back.')
  const code = String((error as { code?: unknown }).code ?? '')
  if (code === '53100' || code === 'ENOSPC')
    return new Problem(507, 'The disk of the server is full. Nothing was changed; free some space and try again.')
  if (/^22...$/.test(code)) return new Problem(400, 'A text or number in this request cannot be kept as it is.')
  if (code === '23505') return new Problem(409, 'Something in this request exists already.')
  if (code === '23503') return new Problem(409, 'Something in this request no longer exists.')
  return null
}

/** Where a body was not read to its end, the line ends with the answer. */
const headersOf = ({ status }: Problem): Record<string, string> =>
  [408, 413, 415, 429].includes(status) ? { Connection: 'close' } : {}

/** Runs a loader's or action's work; problems and typed errors become answers with a status and words. */
export async function answering<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    const problem = problemOf(error)
    throw problem ? data(problem.message, { status: problem.status, headers: headersOf(problem) }) : error
  }
}

/** For resources that programs call: the same as JSON. */
export async function answeringJson(work: () => Promise<Response>): Promise<Response> {
  try {
    return await work()
  } catch (error) {
    const problem = problemOf(error)
    if (!problem) throw error
    const code = error instanceof GristError ? { code: error.code } : {}
    return Response.json({ error: problem.message, ...code }, { status: problem.status, headers: headersOf(problem) })
  }
}

/** Input as the schema says. Throws a Problem that names the member. */
export function checked<T>(schema: z.ZodType<T>, input: unknown): T {
  const result = schema.safeParse(input)
  if (!result.success) throw new Problem(400, explainIssue(result.error.issues[0]!, input))
  return result.data
}

/** A whole number in an address, as the database keeps them (int4). */
export const wholeNumber = z.coerce.number().int().min(0).max(2147483647)

/** An id from the address. Anything else is not found. */
export function idFrom(text: string | undefined): string {
  const result = z.uuid().safeParse(text)
  if (!result.success) throw new Problem(404, 'There is nothing at this address.')
  return result.data
}

/** A SHA-256 from the address. Anything else is not found. */
export function hashFrom(text: string | undefined): string {
  if (!/^[0-9a-f]{64}$/.test(text ?? '')) throw new Problem(404, 'There is nothing at this address.')
  return text!
}
