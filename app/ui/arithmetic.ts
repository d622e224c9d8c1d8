import type { Expression } from 'jsep'
import jsep from 'jsep'

/**
 * The number a typed text stands for: "1/3", "2*(3+4)", "-0,5", "45°" (a share of a turn), or null where it is none.
 * A decimal comma is a point.
 */
export function calculate(text: string): number | null {
  const plain = text.trim().replace(/,/g, '.').replace(/−/g, '-').replace(/×/g, '*').replace(/÷/g, '/')
  const degrees = /^(.*?)\s*(°|deg)$/.exec(plain)
  try {
    const value = valueOf(jsep(degrees ? degrees[1]! : plain))
    const result = degrees ? value / 360 : value
    return Number.isFinite(result) ? result : null
  } catch {
    return null
  }
}

const BINARY: Record<string, (a: number, b: number) => number> = {
  '+': (a, b) => a + b,
  '-': (a, b) => a - b,
  '*': (a, b) => a * b,
  '/': (a, b) => a / b,
  '%': (a, b) => a % b,
}

function valueOf(node: Expression): number {
  if (node.type === 'Literal' && typeof node.value === 'number') return node.value
  if (node.type === 'UnaryExpression') {
    const value = valueOf(node.argument as Expression)
    if (node.operator === '-') return -value
    if (node.operator === '+') return value
  }
  if (node.type === 'BinaryExpression') {
    const work = BINARY[node.operator as string]
    if (work) return work(valueOf(node.left as Expression), valueOf(node.right as Expression))
  }
  throw new Error('no arithmetic')
}
