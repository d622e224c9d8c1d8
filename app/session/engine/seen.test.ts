import type { Watcher } from './seen'
import { createSeen } from './seen'

/** A browser that tells what is on screen when it is told to. */
function screen() {
  let tell: Parameters<Watcher>[0] = () => {}
  const observed = new Set<Element>()
  const watcher: Watcher = (changed) => {
    tell = changed
    return { observe: (element) => void observed.add(element), unobserve: (element) => void observed.delete(element) }
  }
  const scroll = (...entries: [Element, boolean][]): void =>
    tell(entries.map(([target, isIntersecting]) => ({ target, isIntersecting })))
  return { observed, scroll, seen: createSeen(watcher) }
}
const element = (): Element => ({}) as Element

it('knows names while an element that stands for them is on screen', () => {
  const { observed, scroll, seen } = screen()
  const [a, b, other] = [element(), element(), element()]
  const endA = seen.watch(a, 'colour')
  seen.watch(b, 'colour')
  const endOther = seen.watch(other, 'height')
  const names = (): string[] => [...seen.store.getState()].sort()
  expect(names()).toEqual([])
  scroll([a, true], [b, true], [other, false])
  expect(names()).toEqual(['colour'])
  endA()
  expect(names()).toEqual(['colour'])
  scroll([other, true], [b, false])
  expect(names()).toEqual(['height'])
  endOther()
  expect(names()).toEqual([])
  expect([...observed]).toEqual([b])
  // A word about an element that is gone already changes nothing.
  scroll([a, true])
  expect(names()).toEqual([])
})

it('an element in another’s place is seen at once; one that comes later has to be told of', async () => {
  const { scroll, seen } = screen()
  const [a, b, c] = [element(), element(), element()]
  const endA = seen.watch(a, 'colour')
  scroll([a, true])
  endA()
  const endB = seen.watch(b, 'colour')
  expect([...seen.store.getState()]).toEqual(['colour'])
  endB()
  await Promise.resolve()
  seen.watch(c, 'colour')
  expect([...seen.store.getState()]).toEqual([])
})

it('tells once for all that moved, and nothing where the names stay', () => {
  const { scroll, seen } = screen()
  const elements = Array.from({ length: 50 }, element)
  elements.forEach((one, i) => seen.watch(one, `n${i % 10}`))
  let told = 0
  seen.store.subscribe(() => told++)
  scroll(...elements.map((one): [Element, boolean] => [one, true]))
  expect(told).toBe(1)
  scroll(...elements.slice(0, 10).map((one): [Element, boolean] => [one, false]))
  expect(told).toBe(1)
})
