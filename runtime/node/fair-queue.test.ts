import { openFairQueue } from './fair-queue'

const pause = () => new Promise((resolve) => setTimeout(resolve, 1))

test('never more at a time than there are slots; one with much waits behind one with little', async () => {
  const queue = openFairQueue(2)
  const order: string[] = []
  let busy = 0
  let max = 0
  const ask = (who: string, n: number) =>
    queue.run(who, async () => {
      max = Math.max(max, ++busy)
      order.push(`${who}${n}`)
      await pause()
      busy--
    })
  await Promise.all([...[1, 2, 3, 4, 5, 6].map((n) => ask('a', n)), ask('b', 1), ask('c', 1)])
  expect(max).toBe(2)
  expect(order.slice(0, 5).sort()).toEqual(['a1', 'a2', 'a3', 'b1', 'c1'])
  expect(order.filter((one) => one.startsWith('a'))).toEqual(['a1', 'a2', 'a3', 'a4', 'a5', 'a6'])
})

test('work that fails frees its slot', async () => {
  const queue = openFairQueue(1)
  await expect(queue.run('a', async () => Promise.reject(new Error('no')))).rejects.toThrow('no')
  expect(await queue.run('a', async () => 5)).toBe(5)
})
