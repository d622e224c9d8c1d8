import { z } from 'zod'

/** What every parameter tells: its default, its help, how to show it, and the schema that judges a value. */
export interface Parameter<V = unknown> {
  readonly kind:
    'number' | 'integer' | 'pair' | 'choice' | 'toggle' | 'colour' | 'stops' | 'image' | 'channels' | 'curve' | 'ids'
  readonly default: V
  readonly help: string
  readonly title?: string
  readonly unit?: Unit
  readonly min?: number
  readonly max?: number
  /** The part of the range a slider covers; values beyond can be typed. */
  readonly softRange?: readonly [number, number]
  readonly options?: readonly string[]
  /** Where given, it matters only while each named choice is one of these words; forms leave it out otherwise. */
  readonly visibleWhen?: Readonly<Record<string, readonly string[]>>
  readonly schema: z.ZodType<V>
}

/** Whether a parameter matters with the values its node has. */
export const isRelevant = (parameter: Parameter, values: Readonly<Record<string, unknown>>): boolean =>
  Object.entries(parameter.visibleWhen ?? {}).every(([name, words]) => words.includes(String(values[name])))

/** `tile` is a share of the tile's width, `turn` a full circle. */
export type Unit = 'tile' | 'turn' | 'metre' | 'cells'

interface Common {
  help: string
  title?: string
  unit?: Unit
  visibleWhen?: Readonly<Record<string, readonly string[]>>
}

interface Range extends Common {
  min: number
  max: number
  softRange?: readonly [number, number]
}

const within = (min: number, max: number) => z.number().min(min).max(max)

/** Whole numbers that stand for things, each at most once. */
export const ids = (options: Common): Parameter<number[]> => ({
  kind: 'ids',
  default: [],
  ...options,
  schema: z
    .array(z.int().min(0).max(4294967295))
    .max(256)
    .refine((all) => new Set(all).size === all.length, 'each number once'),
})

/** A real number. */
export const number = (options: Range & { default: number }): Parameter<number> => ({
  kind: 'number',
  ...options,
  schema: within(options.min, options.max),
})

/** A whole number. */
export const integer = (options: Range & { default: number }): Parameter<number> => ({
  kind: 'integer',
  ...options,
  schema: within(options.min, options.max).int(),
})

/** Two numbers, across and down. */
export const pair = (options: Range & { default: [number, number]; whole?: boolean }): Parameter<[number, number]> => {
  const one = options.whole ? within(options.min, options.max).int() : within(options.min, options.max)
  return { kind: 'pair', ...options, schema: z.tuple([one, one]) }
}

/** One number for all channels, or three, one for each of red, green, blue. */
export const channels = (options: Range & { default: number }): Parameter<number | [number, number, number]> => {
  const one = within(options.min, options.max)
  return { kind: 'channels', ...options, schema: z.union([one, z.tuple([one, one, one])]) }
}

/** One of a few words. */
export const choice = <const T extends string>(
  options: Common & { default: NoInfer<T>; options: readonly T[] },
): Parameter<T> => ({
  kind: 'choice',
  ...options,
  schema: z.enum(options.options as readonly [T, ...T[]]) as unknown as z.ZodType<T>,
})

/** Yes or no. */
export const toggle = (options: Common & { default: boolean }): Parameter<boolean> => ({
  kind: 'toggle',
  ...options,
  schema: z.boolean(),
})

const hex = z.string().regex(/^#[0-9a-fA-F]{6}$/, 'a colour as "#rrggbb"')

/** An sRGB-encoded colour as "#rrggbb". */
export const colourParameter = (options: Common & { default: string }): Parameter<string> => ({
  kind: 'colour',
  ...options,
  schema: hex,
})

/** One stop of a ramp of colours: its place in 0–1 and its sRGB colour. */
export interface Stop {
  at: number
  colour: string
}

/** 1 to 64 stops with rising places. */
export const stops = (options: Common & { default: Stop[] }): Parameter<Stop[]> => ({
  kind: 'stops',
  ...options,
  schema: z
    .array(z.strictObject({ at: within(0, 1), colour: hex }))
    .min(1)
    .max(64)
    .refine((list) => list.every((stop, i) => i === 0 || stop.at >= list[i - 1]!.at), 'stops whose places rise'),
})

/** One point of a curve: the value that comes in and what it becomes. */
export interface CurvePoint {
  at: number
  to: number
}

/** 2 to 32 points with strictly rising places, both within 0–1. */
export const curve = (options: Common & { default: CurvePoint[] }): Parameter<CurvePoint[]> => ({
  kind: 'curve',
  ...options,
  schema: z
    .array(z.strictObject({ at: within(0, 1), to: within(0, 1) }))
    .min(2)
    .max(32)
    .refine((list) => list.every((point, i) => i === 0 || point.at > list[i - 1]!.at), 'points whose places rise'),
})

/** An image by path relative to the document or by "sha256:…"; "" where none is chosen. */
export const image = (options: Common): Parameter<string> => ({
  kind: 'image',
  default: '',
  ...options,
  schema: z.string().max(1024),
})

/** The random stream of a node that makes something. */
export const seed = (): Parameter<number> =>
  integer({
    default: 0,
    min: 0,
    max: 4294967295,
    softRange: [0, 99],
    help: 'Changes the random arrangement.',
  })

export type Parameters = Readonly<Record<string, Parameter>>
export type ValuesOf<P extends Parameters> = { [K in keyof P]: P[K] extends Parameter<infer V> ? V : never }
