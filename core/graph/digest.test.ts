import { createHash } from 'node:crypto'
import { randomNumbers } from '../testing/random-values'
import { Digests } from './digest'

/** The 128 bits of a digest, from its eight characters. */
const bitsOf = (digest: string): bigint =>
  [...Array(8).keys()].reduce((all, i) => (all << 16n) | BigInt(digest.charCodeAt(i)), 0n)
const onesIn = (bits: bigint): number => bits.toString(2).replaceAll('0', '').length

describe('digests of steps', () => {
  // SHA-256 of the same tree says which steps are the same.
  test('two steps have one digest where what they are and all that feeds them is the same, and only there', () => {
    const random = randomNumbers(8)
    const COUNT = 3000
    const digests = new Digests()
    const [ours, theirs]: [string[], string[]] = [[], []]
    for (let step = 0; step < COUNT; step++) {
      // Few kinds and few inputs, so that many are alike.
      const text = `node ${Math.floor(random() * 6)} {"scale":${Math.floor(random() * 3)}}`
      const inputs =
        step < 4 ? [] : Array.from({ length: Math.floor(random() * 3) }, () => Math.floor(random() ** 6 * step))
      digests.setOwn(step, text)
      ours.push(digests.combine(step, inputs))
      const sha = createHash('sha256').update(text)
      for (const input of inputs) sha.update(`|${theirs[input]}`)
      theirs.push(sha.digest('hex'))
    }
    const firstOf = (all: readonly string[]): number[] => {
      const known = new Map<string, number>()
      return all.map((one, i) => known.get(one) ?? (known.set(one, i), i))
    }
    const expected = firstOf(theirs)
    expect(firstOf(ours)).toEqual(expected)
    expect([...digests.firstEqual(COUNT)]).toEqual(expected)
    const different = new Set(expected).size
    expect(different).toBeGreaterThan(200)
    expect(different).toBeLessThan(COUNT - 200)
    // The first so many alone: what comes later is not looked at.
    expect([...digests.firstEqual(100)]).toEqual(expected.slice(0, 100))
  })

  test('the order of what feeds a step, how many there are, and the end of its text count', () => {
    const digests = new Digests()
    ;['a', 'b', 'c'].forEach((text, step) => {
      digests.setOwn(step, text)
      digests.combine(step, [])
    })
    const of = (text: string, inputs: readonly number[]): string => {
      digests.setOwn(9, text)
      return digests.combine(9, inputs)
    }
    const all = [
      ...[of('n', []), of('n', [0]), of('n', [0, 0]), of('n', [0, 1]), of('n', [1, 0]), of('n', [0, 1, 2])],
      ...[of('n\0', []), of('n\0\0', []), of('nn', []), of('', []), of('\0', []), of('N', [])],
    ]
    expect(new Set(all).size).toBe(all.length)
    // Told again they are what they were.
    expect(of('n', [0, 1])).toBe(all[3])
  })

  // Strict avalanche: A. F. Webster, S. E. Tavares, "On the design of S-boxes", 1985: each bit changes half of the time.
  test('a number that changes a little changes half of all bits, in each word', () => {
    const digests = new Digests()
    const of = (value: number): bigint => {
      digests.setOwn(0, `ramp 1 {"angle":${value},"repeat":4}`)
      return bitsOf(digests.combine(0, []))
    }
    const flips = [0, 0, 0, 0]
    const COUNT = 400
    for (let i = 0; i < COUNT; i++) {
      const change = of(i) ^ of(i + 1)
      for (let word = 0; word < 4; word++) flips[word]! += onesIn((change >> BigInt(32 * word)) & 0xffffffffn)
    }
    // 16 of 32 bits on average; four deviations of what chance leaves (√8 of one).
    for (const sum of flips) expect(Math.abs(sum / COUNT - 16)).toBeLessThan((4 * Math.sqrt(8)) / Math.sqrt(COUNT))
  })

  test('of many that are nearly alike no two have one digest, nor more than chance one word', () => {
    const digests = new Digests()
    const COUNT = 30000
    const [whole, words] = [new Set<string>(), [0, 1, 2, 3].map(() => new Set<bigint>())]
    for (let i = 0; i < COUNT; i++) {
      digests.setOwn(0, `noise 3 {"cells":[${i % 173},${Math.floor(i / 173)}]}`)
      const digest = digests.combine(0, [])
      whole.add(digest)
      words.forEach((set, word) => set.add((bitsOf(digest) >> BigInt(32 * word)) & 0xffffffffn))
    }
    expect(whole.size).toBe(COUNT)
    // Birthdays: 30000² / 2³³ is 0.1 pair a word.
    for (const set of words) expect(COUNT - set.size).toBeLessThan(4)
  })

  test('those of before stay as they are when there come to be more', () => {
    const digests = new Digests()
    digests.setOwn(0, 'first')
    const first = digests.combine(0, [])
    for (let step = 1; step < 2000; step++) {
      digests.setOwn(step, `step ${step}`)
      digests.combine(step, [step - 1])
    }
    expect(digests.combine(0, [])).toBe(first)
    expect(new Set(digests.firstEqual(2000)).size).toBe(2000)
  })
})
