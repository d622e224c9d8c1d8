import { bodyParts, readForm, readJson } from './body.server'
import { Problem } from './problem.server'

const status = async (work: Promise<unknown>): Promise<number> =>
  work.then(
    () => 200,
    (error: unknown) => {
      if (error instanceof Problem) return error.status
      throw error
    },
  )
const sent = (body: BodyInit, type = 'application/json'): Request =>
  new Request('http://x/', { method: 'POST', body, headers: { 'Content-Type': type }, duplex: 'half' } as RequestInit)
const all = async (parts: AsyncIterable<Uint8Array>): Promise<number> => {
  let bytes = 0
  for await (const part of parts) bytes += part.length
  return bytes
}

test('a body without a stated length is counted, and left where it is too long', async () => {
  let given = 0
  const endless = () =>
    new ReadableStream<Uint8Array>({
      pull: (controller) => {
        given += 1000
        controller.enqueue(new Uint8Array(1000))
      },
    })
  expect(await status(all(bodyParts(sent(endless()), 50_000)))).toBe(413)
  expect(given).toBeLessThan(80_000)
})

test('a body that stalls is given up, one that breaks off is told', async () => {
  const stalling = new ReadableStream<Uint8Array>({ start: (controller) => controller.enqueue(new Uint8Array(3)) })
  expect(await status(all(bodyParts(sent(stalling), 100, 50)))).toBe(408)
  const breaking = new ReadableStream<Uint8Array>({ pull: (controller) => controller.error(new Error('cut')) })
  expect(await status(all(bodyParts(sent(breaking), 100, 50)))).toBe(400)
})

test('texts that cannot be kept are refused with their place, wherever they stand', async () => {
  const refused = async (text: string): Promise<string> =>
    readJson(sent(text)).then(
      () => 'taken',
      (error: unknown) => (error as Problem).message,
    )
  expect(await refused('{"a":["x\\u0000"]}')).toBe('a.0: A text may not hold the character U+0000.')
  expect(await refused('{"a":"\\ud83e"}')).toContain('a: A text holds half of a character')
  expect(await refused('{"\\udc00":1}')).toContain('half of a character')
  expect(await refused('{"a":"🧱"}')).toBe('taken')
  expect(await refused(`${'['.repeat(3000)}${']'.repeat(3000)}`)).toContain('nested 100 levels deep')
  expect(await status(readForm(sent('name=%00', 'application/x-www-form-urlencoded')))).toBe(400)
  expect(await readForm(sent('name=a%20b&name=c', 'application/x-www-form-urlencoded; charset=utf-8'))).toEqual({
    name: 'c',
  })
  expect(await status(readForm(sent('name=a', 'text/plain')))).toBe(415)
})
