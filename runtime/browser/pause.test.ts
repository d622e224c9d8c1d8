import { openPauses } from './pause'

it('ends for each who waits, in order, however many wait at a time', async () => {
  const pause = openPauses()
  const ended: number[] = []
  await Promise.all([1, 2, 3].map((one) => pause().then(() => ended.push(one))))
  expect(ended).toEqual([1, 2, 3])
  await pause()
})
