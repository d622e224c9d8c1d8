import { isChildAlive } from './testing/processes'
import { supervise } from './supervise'

const until = async (reached: () => boolean): Promise<void> => {
  for (let i = 0; i < 400 && !reached(); i++) await new Promise((resolve) => setTimeout(resolve, 10))
  expect(reached()).toBe(true)
}

test('what keeps ending is started again after a pause that doubles up to the greatest', async () => {
  const told: string[] = []
  const services = supervise(
    { name: 'thing', command: ['false'], stop: 'SIGTERM', pauses: [10, 40] },
    (text) => void told.push(text),
  )
  await until(() => told.length >= 5)
  await services.end(1000)
  expect(told.slice(0, 5).map((text) => /again in ([\d.]+) s/.exec(text)?.[1])).toEqual([
    '0.01',
    '0.02',
    '0.04',
    '0.04',
    '0.04',
  ])
  const count = told.length
  await new Promise((resolve) => setTimeout(resolve, 100))
  expect(told).toHaveLength(count)
})

test('a program that cannot be started is told and tried again', async () => {
  const told: string[] = []
  const services = supervise(
    { name: 'thing', command: ['/nowhere/at/all'], stop: 'SIGTERM', pauses: [10, 10] },
    (text) => void told.push(text),
  )
  await until(() => told.length >= 2)
  await services.end(1000)
  expect(told[0]).toContain('ENOENT')
})

test('it is asked to end, and ended where it does not', async () => {
  for (const [script, signal] of [
    ['exec sleep 60', 'SIGTERM'],
    ['trap "" TERM; while true; do sleep 0.05; done', 'SIGTERM'],
  ] as const) {
    const services = supervise({ name: 'thing', command: ['bash', '-c', script], stop: signal }, () => {})
    const pid = services.pid!
    await new Promise((resolve) => setTimeout(resolve, 150))
    expect(isChildAlive(pid)).toBe(true)
    await services.end(300)
    expect(isChildAlive(pid)).toBe(false)
  }
})
