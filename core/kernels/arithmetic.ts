import { atan2Turns, pow, sinTurns } from '../elementary'
import { smoothstep } from './point'

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
