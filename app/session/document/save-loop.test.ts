import { saveLoop } from './save-loop'

/** A server that answers when it is told to, and what is sent later. */
function bench() {
  let waiting = 0
  const sent: number[] = []
  const answers: { resolve(): void; reject(): void }[] = []
  const retries: (() => void)[] = []
  let away = 0
  const loop = saveLoop({
    step: async () => {
      if (waiting === 0) return false
      const now = waiting
      await new Promise<void>((resolve, reject) => answers.push({ resolve, reject }))
      sent.push(now)
      waiting -= now
      return true
    },
    away: () => away++,
    later: (work) => void retries.push(work),
  })
  const settled = () => new Promise((resolve) => setImmediate(resolve))
  return { loop, sent, answers, retries, settled, more: (count: number) => (waiting += count), awayTimes: () => away }
}

test('one save at a time; what comes meanwhile goes with the next', async () => {
  const { loop, sent, answers, settled, more } = bench()
  more(1)
  loop.run()
  more(2)
  loop.run()
  loop.run()
  expect(answers).toHaveLength(1)
  answers[0]!.resolve()
  await settled()
  expect([sent, answers.length]).toEqual([[1], 2])
  more(4)
  loop.run()
  for (const at of [1, 2]) {
    answers[at]!.resolve()
    await settled()
  }
  expect([sent, answers.length]).toEqual([[1, 2, 4], 3])
})

test('where the server is away it is tried again later, and only then', async () => {
  const { loop, sent, answers, retries, settled, more, awayTimes } = bench()
  more(1)
  loop.run()
  answers[0]!.reject()
  await settled()
  expect([awayTimes(), retries.length, answers.length]).toEqual([1, 1, 1])
  retries[0]!()
  answers[1]!.resolve()
  await settled()
  expect(sent).toEqual([1])
})

test('other work waits for saves, and saves for it', async () => {
  const { loop, sent, answers, settled, more } = bench()
  more(1)
  loop.run()
  expect(loop.between(async () => {})).toBe(false)
  answers[0]!.resolve()
  await settled()
  let finish = (): void => {}
  expect(loop.between(() => new Promise<void>((resolve) => (finish = resolve)))).toBe(true)
  more(2)
  loop.run()
  expect([answers.length, loop.between(async () => {})]).toEqual([1, false])
  finish()
  await settled()
  answers[1]!.resolve()
  await settled()
  expect(sent).toEqual([1, 2])
})
