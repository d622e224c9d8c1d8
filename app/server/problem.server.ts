import { data } from 'react-router'
import { z } from 'zod'
import { GristError } from '#core/errors'
import { explainIssue } from '#core/graph/document'

/** What went wrong with a request, with the HTTP status that says so. */
export class Problem extends Error {
  constructor(
    readonly status: 400 | 404 | 409 | 413 | 415 | 416 | 422,
    message: string,
  ) {
    super(message)
  }
}

/** Runs a loader's or action's work; problems and typed errors become answers with a status and words. */
export async function answering<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    if (error instanceof Problem) throw data(error.message, { status: error.status })
    if (error instanceof GristError) throw data(error.message, { status: 422 })
    throw error
  }
}

/** For resources that programs call: the same as JSON. */
export async function answeringJson(work: () => Promise<Response>): Promise<Response> {
  try {
    return await work()
  } catch (error) {
    if (error instanceof Problem) return Response.json({ error: error.message }, { status: error.status })
    if (error instanceof GristError) return Response.json({ error: error.message, code: error.code }, { status: 422 })
    throw error
  }
}

/** Input as the schema says. Throws a Problem that names the member. */
export function checked<T>(schema: z.ZodType<T>, input: unknown): T {
  const result = schema.safeParse(input)
  if (!result.success) throw new Problem(400, explainIssue(result.error.issues[0]!, input))
  return result.data
}

/** An id from the address. Anything else is not found. */
export function idFrom(text: string | undefined): string {
  const result = z.uuid().safeParse(text)
  if (!result.success) throw new Problem(404, 'There is nothing at this address.')
  return result.data
}
