import type { Parameter } from '../graph/parameters'
import { hash32, unitFloat } from '../random'

/** A stream of numbers from 0 to below 1, the same for a seed wherever it runs. */
export function randomNumbers(seed: number): () => number {
  let state = seed * 2654435761
  return () => unitFloat((state = hash32(state + 1)))
}

export const pick = <T>(random: () => number, list: readonly T[]): T => list[Math.floor(random() * list.length)]!

/** A value that a parameter takes: mostly from the part of its range that a slider covers. */
export function randomValue(parameter: Parameter, random: () => number): unknown {
  const { kind, min = 0, max = 1, softRange, options, schema } = parameter
  if (kind === 'choice') return pick(random, options!)
  if (kind === 'toggle') return random() < 0.5
  if (kind === 'colour') return pick(random, ['#000000', '#ffffff', '#b4690e', '#3c78b4'])
  if (kind === 'stops')
    return Array.from({ length: 1 + Math.floor(random() * 4) }, (_, i) => ({
      at: i / 4,
      colour: pick(random, ['#000000', '#2f6f4f', '#e8d0a0']),
    }))
  if (kind === 'curve')
    return Array.from({ length: 2 + Math.floor(random() * 4) }, (_, i) => ({ at: i / 6, to: random() }))
  if (kind === 'image') return ''
  if (kind === 'ids') return [...new Set(Array.from({ length: 3 }, () => Math.floor(random() * 5)))]
  const [low, high] = random() < 0.2 ? [min, max] : (softRange ?? [min, Math.min(max, min + 4)])
  const one = (): number => low + random() * (high - low)
  const number = (): number => (kind === 'integer' ? Math.round(one()) : one())
  if (kind === 'channels') return random() < 0.5 ? one() : [one(), one(), one()]
  if (kind !== 'pair') return number()
  const both = [one(), one()]
  return schema.safeParse(both).success ? both : both.map(Math.round)
}
