/** How long an answer may take, in milliseconds; what takes longer by its nature says so. */
const LIMIT = 20_000

/** Fetches from our server. Rejects where it cannot be reached, or has not answered in time. */
export const ask = (address: string, init: RequestInit = {}, milliseconds = LIMIT): Promise<Response> =>
  fetch(address, { ...init, signal: AbortSignal.timeout(milliseconds) })

/** The same with a body of JSON. */
export const askJson = (address: string, method: 'POST' | 'PUT' | 'DELETE', body: unknown): Promise<Response> =>
  ask(address, { method, headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })
