import { expect, jest, test } from '@jest/globals'
import { outlivingThePage } from './outliving-the-page'

test('small forms and a little JSON outlive their page; what is read, files, and more than the standard lets live do not', async () => {
  const plain = jest.fn<typeof fetch>().mockResolvedValue(new Response())
  const wrapped = outlivingThePage(plain)
  const form = (characters: number) => new URLSearchParams({ role: 'x'.repeat(characters) })
  await wrapped('/a', { method: 'POST', body: form(10) })
  await wrapped('/a', { method: 'POST', body: form(10_000) })
  await wrapped('/a', { method: 'POST', body: '{"part":1}' })
  await wrapped('/a', { method: 'POST', body: 'x'.repeat(10_000) })
  await wrapped('/a', { method: 'POST', body: new FormData() })
  await wrapped('/a')
  expect(plain.mock.calls.map(([, init]) => init?.keepalive ?? false)).toEqual([true, false, true, false, false, false])
})
