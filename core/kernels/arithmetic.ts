import { atan2Turns, pow, sinTurns } from '../elementary'
import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { bounded } from '../field/limits'
import { smoothstep } from './point'
import type { Rows } from './rows'
import type { Simd } from './simd'
import { simd } from './simd'

/** What `math` can do: its formula in words, and what it computes from a, b and c. */
export const OPERATIONS = {
  add: { formula: 'a + b', apply: (a, b) => a + b },
  subtract: { formula: 'a − b', apply: (a, b) => a - b },
  multiply: { formula: 'a · b', apply: (a, b) => a * b },
  divide: { formula: 'a / b; 0 where b is 0', apply: (a, b) => (b === 0 ? 0 : a / b) },
  power: { formula: 'a to the power b; 0 for a below 0', apply: (a, b) => (a < 0 ? 0 : pow(a, b)) },
  modulo: {
    formula: 'a − b · floor(a / b); 0 where b is 0',
    apply: (a, b) => (b === 0 ? 0 : a - b * Math.floor(a / b)),
  },
  minimum: { formula: 'the lesser of a and b', apply: (a, b) => (a < b ? a : b) },
  maximum: { formula: 'the greater of a and b', apply: (a, b) => (a > b ? a : b) },
  step: { formula: '1 where a ≥ b, else 0', apply: (a, b) => (a >= b ? 1 : 0) },
  smoothstep: { formula: '0 below b, 1 above c, smooth between', apply: (a, b, c) => smoothstep(b, c, a) },
  lerp: { formula: 'a + (b − a) · c', apply: (a, b, c) => a + (b - a) * c },
  sine: { formula: 'sine of a, in turns', apply: (a) => sinTurns(a) },
  floor: { formula: 'the greatest whole number up to a', apply: (a) => Math.floor(a) },
  absolute: { formula: 'a without its sign', apply: (a) => (a < 0 ? -a : a) },
  atan2: { formula: 'the angle of (b, a) in turns, from −0.5 to 0.5', apply: (a, b) => atan2Turns(a, b) },
} as const satisfies Record<string, { formula: string; apply: (a: number, b: number, c: number) => number }>

export type Operation = keyof typeof OPERATIONS

/** Operations by their numbers in `math` and in `mathByNumber` of core/kernels/assembly/values.ts. */
const MATH: readonly Operation[] = [
  'add',
  'subtract',
  'multiply',
  'divide',
  'modulo',
  'minimum',
  'maximum',
  'step',
  'smoothstep',
  'lerp',
  'floor',
  'absolute',
]
const BY_NUMBER: readonly Operation[] = ['power', 'sine', 'atan2']

/** An operation on fields, plane by plane; a number stands for a field of that value. The result is kept finite. */
export function computeFields(
  operation: Operation,
  a: Field,
  b: Field | number,
  c: Field | number,
  out: Field,
  rows: Rows,
): void {
  const twin = simd()
  if (twin) return twin.scratch(() => bySimd(twin, operation, a, b, c, out, rows))
  const { apply } = OPERATIONS[operation] as { apply: (a: number, b: number, c: number) => number }
  const plain = (value: Field | number): number => (typeof value === 'number' ? Math.fround(value) : 0)
  const [bValue, cValue] = [plain(b), plain(c)]
  const start = (value: Field | number, y: number): number => (typeof value === 'number' ? 0 : rowStart(value, y))
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [a0, b0, c0, o0] = [rowStart(a, y), start(b, y), start(c, y), rowStart(out, y)]
    out.planes.forEach((plane, p) => {
      const av = a.planes[p]!
      const bv = typeof b === 'number' ? null : b.planes[p]!
      const cv = typeof c === 'number' ? null : c.planes[p]!
      for (let x = 0; x < out.width; x++)
        plane[o0 + x] = bounded(Math.fround(apply(av[a0 + x]!, bv ? bv[b0 + x]! : bValue, cv ? cv[c0 + x]! : cValue)))
    })
  }
}

function bySimd(
  twin: Simd,
  operation: Operation,
  a: Field,
  b: Field | number,
  c: Field | number,
  out: Field,
  rows: Rows,
): void {
  const fixed = [b, c].map((value) => (typeof value === 'number' ? twin.splat(value) : 0))
  const inLanes = MATH.indexOf(operation)
  const byNumber = BY_NUMBER.indexOf(operation)
  out.planes.forEach((plane, p) => {
    const fields = [b, c].filter((value) => typeof value !== 'number')
    const inputs = [a, ...fields].map((field) => [field, field.planes[p]!] as const)
    twin.runs(rows, out.width, inputs, [[out, plane]], (count, at, [to]) => {
      const bAt = fixed[0] || at[1]!
      const cAt = fixed[1] || at.at(-1)!
      const step = (value: Field | number, bytes: number): number => (typeof value === 'number' ? 0 : bytes)
      if (inLanes >= 0) twin.assembly.math(inLanes, at[0]!, bAt, step(b, 16), cAt, step(c, 16), to!, count)
      else twin.assembly.mathByNumber(byNumber, at[0]!, bAt, step(b, 4), to!, count)
    })
  })
}
