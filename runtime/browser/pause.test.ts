import { openPauses } from './pause'

it('ends for each who waits, in order, however many wait at a time', async () => {
  const pause = openPauses()
  const ended: number[] = []
  await Promise.all([1, 2, 3].map((one) => pause().then(() => ended.push(one))))
  expect(ended).toEqual([1, 2, 3])
  await pause()
})

it('lets a message in that came before it', async () => {
  const pause = openPauses()
  const { port1, port2 } = new MessageChannel()
  let heard = false
  port1.onmessage = () => (heard = true)
  port2.postMessage(null)
  for (let i = 0; i < 100 && !heard; i++) await pause()
  expect(heard).toBe(true)
  port1.close()
})
