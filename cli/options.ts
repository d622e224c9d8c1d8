import { parseArgs } from 'node:util'
import { GristError } from '#core/errors'

export interface Options {
  readonly words: readonly string[]
  text(name: string): string | undefined
  /** Throws `usage` where it is missing. */
  need(name: string): string
  flag(name: string): boolean
  whole(name: string, fallback: number): number
  /** A number within a range. Throws `usage` on anything else. */
  number(name: string, fallback: number, range: readonly [number, number]): number
}

const FLAGS = ['json', 'quiet', 'dither', 'replace', 'anew', 'nearest', 'help'] as const
const TEXTS = [
  'output',
  'size',
  'out',
  'packing',
  'assets',
  'threads',
  'memory',
  'set',
  'sharpen',
  'project',
  'delivery',
  'mesh',
  'high',
  'kinds',
  'height',
  'bits',
  'format',
  'part',
  'tile',
  'vertices',
  'uv-set',
  'samples',
  'rays',
  'ray-step',
  'quality',
  'reach',
  'radius',
  'distance',
  'padding',
  'unit',
  'cage',
  'image',
  'image-set',
  'vertex',
  'vertex-out',
  'spacing',
  'from',
  'to',
  'name',
  'normal-y',
  'with',
] as const

/** Reads the words after a command. Throws `usage` on unknown options. */
export function readOptions(args: readonly string[]): Options {
  const options = Object.fromEntries([
    ...FLAGS.map((name) => [name, { type: 'boolean' as const }]),
    ...TEXTS.map((name) => [name, { type: 'string' as const }]),
  ])
  let parsed
  try {
    parsed = parseArgs({ args: [...args], options, allowPositionals: true })
  } catch (error) {
    throw new GristError('usage', (error as Error).message)
  }
  const values = parsed.values as Record<string, string | boolean | undefined>
  const text = (name: string): string | undefined => values[name] as string | undefined
  return {
    words: parsed.positionals,
    text,
    need: (name) => {
      const value = text(name)
      if (value === undefined) throw new GristError('usage', `--${name} is missing.`)
      return value
    },
    flag: (name) => values[name] === true,
    whole: (name, fallback) => {
      const value = text(name)
      if (value === undefined) return fallback
      if (!/^\d{1,9}$/.test(value) || Number(value) < 1)
        throw new GristError(
          'usage',
          `Expected a whole number above 0 for --${name} but received ${JSON.stringify(value)}.`,
        )
      return Number(value)
    },
    number: (name, fallback, [low, high]) => {
      const value = text(name)
      if (value === undefined) return fallback
      const number = Number(value)
      if (value.trim() === '' || !(number >= low && number <= high))
        throw new GristError(
          'usage',
          `Expected a number from ${low} to ${high} for --${name} but received ${JSON.stringify(value)}.`,
        )
      return number
    },
  }
}
