import { LIMITS } from '#core/limits'
import { Problem } from './problem.server'

/** A body that sends nothing for so long is given up, in milliseconds. */
const STALL = 20_000
/** Bodies of forms and settings; documents have a limit of their own. */
const SMALL = 1 << 20
/** How deep JSON may be nested; documents use about 50 levels at most (groups in groups). */
const DEPTH = 100

/**
 * The parts of a request's body, at most `max` bytes of them whatever was announced. Throws a Problem 413 beyond that, 408
 * where nothing comes for a while, 400 where the sender breaks off.
 */
export async function* bodyParts(request: Request, max: number, stall = STALL): AsyncGenerator<Uint8Array> {
  const tooLarge = new Problem(413, `Expected at most ${inWords(max)}.`)
  if (Number(request.headers.get('Content-Length') ?? 0) > max) throw tooLarge
  if (!request.body) return
  const reader = request.body.getReader()
  let bytes = 0
  try {
    for (;;) {
      const { done, value } = await timely(reader.read(), stall)
      if (done) return
      bytes += value.length
      if (bytes > max) throw tooLarge
      yield value
    }
  } finally {
    // Not cancelled: that would cut the line before the answer is on it. What is not read is never taken from the line.
    reader.releaseLock()
  }
}

const inWords = (bytes: number): string => (bytes >= 1 << 20 ? `${bytes >> 20} MB` : `${bytes >> 10} kB`)

async function timely<T>(work: Promise<T>, milliseconds: number): Promise<T> {
  let timer: NodeJS.Timeout | undefined
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new Problem(408, 'Nothing arrived for a while. Send it again.')), milliseconds)
  })
  try {
    return await Promise.race([
      work.catch((error: unknown) => {
        throw new Problem(400, `The request broke off: ${(error as Error).message}`)
      }),
      late,
    ])
  } finally {
    clearTimeout(timer)
  }
}

async function bodyText(request: Request, max: number, type: string): Promise<string> {
  const given = request.headers.get('Content-Type')?.split(';')[0]!.trim().toLowerCase()
  if (given !== type) throw new Problem(415, `Expected a body of type ${type} but received ${given || 'none'}.`)
  const parts: Uint8Array[] = []
  for await (const part of bodyParts(request, max)) parts.push(part)
  return Buffer.concat(parts).toString('utf8')
}

/** JSON whose texts can be kept. Throws a Problem that says what is wrong with it. */
export async function readJson(request: Request, max: number = SMALL): Promise<unknown> {
  const text = await bodyText(request, max, 'application/json')
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    throw new Problem(400, 'Expected JSON.')
  }
  checkTexts(json, [], 0)
  return json
}

/** The fields of a form, each once. */
export async function readForm(request: Request): Promise<Record<string, string>> {
  const text = await bodyText(request, SMALL, 'application/x-www-form-urlencoded')
  const fields = Object.fromEntries(new URLSearchParams(text))
  checkTexts(fields, [], 0)
  return fields
}

/** Room for a document and its edits with their inverses. */
export const SAVE_BYTES = 4 * LIMITS.document.bytes

/**
 * Every text must be one that the database and files can hold: no U+0000 and no half of a surrogate pair (Unicode 15, 3.9
 * D75). Throws a Problem that names the place.
 */
function checkTexts(value: unknown, path: (string | number)[], depth: number): void {
  if (depth > DEPTH) throw new Problem(400, `JSON may be nested ${DEPTH} levels deep at most.`)
  if (typeof value === 'string') checkText(value, path)
  else if (Array.isArray(value)) value.forEach((one, i) => checkTexts(one, [...path, i], depth + 1))
  else if (typeof value === 'object' && value !== null)
    for (const [key, one] of Object.entries(value)) {
      checkText(key, path)
      checkTexts(one, [...path, key], depth + 1)
    }
}

function checkText(text: string, path: (string | number)[]): void {
  const where = path.length ? `${path.slice(-6).join('.')}: ` : ''
  if (text.includes('\0')) throw new Problem(400, `${where}A text may not hold the character U+0000.`)
  if (!text.isWellFormed()) throw new Problem(400, `${where}A text holds half of a character (a lone surrogate).`)
}
