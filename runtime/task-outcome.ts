import type { ErrorCode, ErrorPlace } from '#core/errors'
import { GristError } from '#core/errors'

/** How a task ended badly, as plain data: error classes do not survive the way between threads. */
export type TaskFailure = { error: { code: ErrorCode; detail: string; place: ErrorPlace } }

export const failureOf = ({ code, detail, place }: GristError): TaskFailure => ({ error: { code, detail, place } })

/** Throws what the other thread could not. */
export function raise({ error: { code, detail, place } }: TaskFailure): never {
  throw new GristError(code, detail, place)
}
