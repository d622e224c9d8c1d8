import type { Expression } from 'jsep'
import jsep from 'jsep'

/** What a typed text stands for, or why it is none. */
export type Calculated = { readonly value: number } | { readonly reason: string }

/** What numbers of a field are: its unit, and how wide a tile is where lengths may be typed for shares of it. */
export interface TypedUnit {
  readonly unit?: string
  readonly tileMetres?: number | null
}

/** Metres of the lengths that may be typed. */
const LENGTHS: Readonly<Record<string, number>> = { mm: 0.001, cm: 0.01, m: 1 }
const CONSTANTS: Readonly<Record<string, number>> = { pi: Math.PI, π: Math.PI }
const FUNCTIONS: Readonly<Record<string, (...values: number[]) => number>> = {
  sqrt: Math.sqrt,
  abs: Math.abs,
  min: Math.min,
  max: Math.max,
}

jsep.addBinaryOp('^', 14, true)
jsep.addUnaryOp('√')

class Refused extends Error {}

/**
 * The number a typed text stands for: "1/3", "2*(3+4)", "-0,5", "2^10", "sqrt(2)", "50 %", "45°" where turns are asked for,
 * "250 cm" where lengths or shares of a tile are. A decimal comma is a point.
 */
export function calculate(text: string, of: TypedUnit = {}): Calculated {
  const plain = text
    .trim()
    .replace(/(\d),(\d)/g, '$1.$2')
    .replace(/−/g, '-')
    .replace(/[×·]/g, '*')
    .replace(/÷/g, '/')
    .replace(/\*\*/g, '^')
    .replace(/²/g, '^2')
  if (plain === '') return { reason: 'A number is missing.' }
  try {
    // A per cent sign is one unless something follows that it could divide by.
    const percent = plain.replace(/%(?!\s*[\d.(a-zπ])/gi, '*0.01')
    const value = valueOf(jsep(withUnits(percent, of)))
    if (!Number.isFinite(value)) return { reason: 'This has no value: a division by 0, or a root of less.' }
    return { value }
  } catch (error) {
    return { reason: error instanceof Refused ? error.message : 'This is no number, nor a sum that gives one.' }
  }
}

/** Numbers with a unit after them as plain ones in the field's unit. */
function withUnits(text: string, { unit, tileMetres }: TypedUnit): string {
  return text.replace(
    /(\d\.?|\))\s*(°|deg\b|turns?\b|mm\b|cm\b|m\b|tiles?\b|cells?\b)/gi,
    (_, before: string, word: string) => {
      const name = word.toLowerCase()
      if (name === '°' || name === 'deg') {
        if (unit !== 'turn') throw new Refused('Degrees are for angles; this is none.')
        return `${before}/360`
      }
      if (name.startsWith('turn') || name.startsWith('tile') || name.startsWith('cell')) {
        const own = name.replace(/s$/, '')
        if (own !== unit?.replace(/s$/, '')) throw new Refused(`This is not in ${own}s.`)
        return before
      }
      const metres = LENGTHS[name]!
      if (unit === 'm') return `${before}*${metres}`
      if (unit === 'tile' && tileMetres) return `${before}*${metres / tileMetres}`
      throw new Refused(`${name} is a length; this is none.`)
    },
  )
}

const BINARY: Readonly<Record<string, (a: number, b: number) => number>> = {
  '+': (a, b) => a + b,
  '-': (a, b) => a - b,
  '*': (a, b) => a * b,
  '/': (a, b) => a / b,
  '%': (a, b) => a % b,
  '^': (a, b) => a ** b,
}

function valueOf(node: Expression): number {
  if (node.type === 'Literal' && typeof node.value === 'number') return node.value
  if (node.type === 'Identifier') {
    const value = CONSTANTS[(node.name as string).toLowerCase()]
    if (value === undefined) throw new Refused(`“${String(node.name)}” is not known; pi and sqrt( ) are.`)
    return value
  }
  if (node.type === 'CallExpression') {
    const { name } = node.callee as { name?: string }
    const work = FUNCTIONS[(name ?? '').toLowerCase()]
    if (!work || !Object.hasOwn(FUNCTIONS, name!.toLowerCase()))
      throw new Refused(`“${name ?? ''}( )” is not known; sqrt( ), abs( ), min( ) and max( ) are.`)
    return work(...(node.arguments as Expression[]).map(valueOf))
  }
  if (node.type === 'UnaryExpression') {
    const value = valueOf(node.argument as Expression)
    if (node.operator === '-') return -value
    if (node.operator === '+') return value
    if (node.operator === '√') return Math.sqrt(value)
  }
  if (node.type === 'BinaryExpression') {
    const work = BINARY[node.operator as string]
    // Minus binds less than a power: −2^2 is −4.
    const { left } = node as unknown as { left: Expression }
    if (node.operator === '^' && left.type === 'UnaryExpression' && left.operator === '-')
      return -(valueOf(left.argument as Expression) ** valueOf(node.right as Expression))
    if (work) return work(valueOf(left), valueOf(node.right as Expression))
  }
  throw new Error('no arithmetic')
}
